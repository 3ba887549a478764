; How far has the water fallen? Reads two levels and writes the difference,
; or 0 when it has risen: watch N and the complement in ACC.

        READ
        STORE first
        READ
        STORE second
        LOAD  first
        SUB   second        ; 120 - 150 is 9970, which is read as -30
        JUMPN risen
        WRITE
        HALT

risen   LOAD  nothing
        WRITE
        HALT

nothing .cells 0
first   .room  1
second  .room  1
