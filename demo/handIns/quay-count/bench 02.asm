; Quay count: how many of the day's four levels reach the quay edge?       ;!

edge    = 0x96
times   = 4

start   LOADX #0
next    TRAP  askLevel
        CMP   #edge         ; C becomes 1 where the level stays below
        JUMPZ below
        LOAD  count
        INC
        STORE count
below   INCX
        CMPX  #times
        JUMPNZ next
        LOAD  count
        TRAP  showNumber
        HALT

        .origin 0x40        ;!
count   .cells 0            ;!
        .output count, decimal, "levels"
