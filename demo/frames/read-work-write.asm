; Reads a level, works on it, writes the result.   ;!
; Only the middle is yours.                          ;!

start   TRAP  askLevel                               ;!
        STORE level                                  ;!

        ; your instructions

        TRAP  showNumber                             ;!
        HALT                                         ;!

level   .room 1                                      ;!
