; Quay count: how many of the day's four levels reach the quay edge?       ;!

edge    = 0x96
times   = 4

start   TRAP  askLevel
        STORE level
        LOADX #0
next    LOAD  level
        CMP   #edge
        JUMPC below
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
level   .room 1
        .output count, decimal, "levels"
