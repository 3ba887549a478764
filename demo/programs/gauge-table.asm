; Looks levels up in a table of the program memory and shows them at the quay, one after the other.

start   LOAD  #4
        STORE R7
        LOAD  P0, #levels
again   CALL  show
        INC   P0
        REPEAT R7, again
        HALT

; P0 points at a level; its low digit goes to the quay
show    LOAD  R0                ; TABLE takes its address away, so it is kept
        STORE R2
        LOAD  R1
        STORE R3
        TABLE P1
        LOAD  R3
        OUT   4
        RET

levels  .cells 1, 5, 9, 3
