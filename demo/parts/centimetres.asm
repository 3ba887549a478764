; Writes ACC as a level: the number, then "cm".

        .routine showCentimetres
        TRAP  showNumber
        LOAD  #unit
        TRAP  showText
        RET
unit    .string "cm\n"
        .end
