; Two subroutines, one calling the other: without the PUSH, R7 would forget the way back.

start   PUT   R1, #3
        CALL  both
        TRAP  putNumber
        PUT   R1, #0b0101       ; sill and horn
        TRAP  setLamps
        HALT

; in and out: R1, three times as large and one more
both    PUSH  R7
        CALL  triple
        ADD   R1, R1, #1
        POP   R7
        RET

triple  ADD   R2, R1, R1
        ADD   R1, R1, R2
        RET
