; Quay count: how many of the day's four levels reach the quay edge?       ;!

edge    = 0x96
times   = 4

start   LOAD  #0
        STORE count
        LOADX #0
        TRAP  askLevel
        CMP   #edge
        JUMPC below
        LOAD  count
        INC
        STORE count
below   INCX
        CMPX  #times
        JUMPNZ 2
        LOAD  count
        TRAP  showNumber
        HALT

        .origin 0x40        ;!
count   .cells 0            ;!
        .output count, decimal, "levels"
