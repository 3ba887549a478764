; Quay count: how many of the day's four levels reach the quay edge?       ;!

edge    = 96
times   = 4

start   LOAD  #0
        STORE count
        LOADX #0
next    TRAP  askLevel
        CMP   #edge
        JUMPC under
        LOAD  count
        INC
        STORE count
under   INCX
        CMPX  #times
        JUMPNZ next
        LOAD  count
        TRAP  showNumber
        HALT

        .origin 0x40        ;!
count   .cells 0            ;!
        .output count, decimal, "levels"
