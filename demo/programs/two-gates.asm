; Two subroutines, one calling the other: without the PUSH, R5 would forget the way back.

start   PUT   R1, #3
        CALL  both
        TRAP  sayNumber
        PUT   R1, #0b0101       ; sill and horn
        TRAP  light
        HALT

; in and out: R1, three times as large and one more
both    PUSH  R5
        CALL  triple
        ADD   R1, R1, #1
        POP   R5
        RET

triple  ADD   R2, R1, R1
        ADD   R1, R1, R2
        RET
