; Quay count: how many of the day's four levels reach the quay edge?       ;!

quay    = 0x96
times   = 4

start   LOAD  #0
        STORE count
        LOADX #0
next    TRAP  askLevel
        CMP   #quay
        JUMPC below
        LOAD  count
        INC
        STORE count
below   INCX
again   CMPX  #times
        JUMPNZ again
        LOAD  count
        TRAP  showNumber
        HALT

        .origin 0x40        ;!
count   .cells 0            ;!
        .output count, decimal, "levels"
