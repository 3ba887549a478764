; Water over the sill of the lock gate, for three readings of the day.
; One subroutine does the work; watch SP and the stack at 0xEF.

sill    = 75                ; cm

start   LOAD  morning
        CALL  depth
        LOAD  noon
        CALL  depth
        LOAD  evening
        CALL  depth
        HALT

; In: ACC, a level. Writes the depth over the sill, or 0 when it lies dry.
depth   SUB   #sill
        JUMPNC show         ; no borrow: the water stands over the sill
        LOAD  #0
show    TRAP  showNumber
        RET

        .origin 0x40
morning .cells 112
noon    .cells 60
evening .cells 203
