; The harbour log: writes a heading and then whatever is typed, up to a full stop.
; Step into TRAP: the routine is code like any other.

start   ADDR  R1, heading
        TRAP  sayText
again   TRAP  awaitKey
        TRAP  sayLetter
        LOAD  R2, stopSign
        CMP   R1, R2
        JUMPNZ again
        HALT

heading .text "log: ", 0
stopSign .cells '.'
