        PUSH  R7
        CALL  inner
        POP   R7
        RET
