        LOAD  #10
again   DEC
        JUMPNZ again
