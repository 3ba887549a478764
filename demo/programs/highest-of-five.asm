; The highest of five levels, by a subroutine; the link register brings us back.

start   ADDR  R1, levels
        PUT   R2, #5
        CALL  highest
        TRAP  sayNumber
        HALT

; in: R1, address of levels; R2, how many. out: R1, the highest
highest PUT   R3, #0
more    LOAD  R6, [R1 + 0]
        CMP   R3, R6
        JUMPC lower             ; C is 1: no borrow, so R3 is not lower
        MOVE  R3, R6
lower   ADD   R1, R1, #1
        ADD   R2, R2, #-1
        JUMPNZ more
        MOVE  R1, R3
        RET

levels  .cells 158, 171, 402, 166, 149
