; Quay count: how many of the day's four levels reach the quay edge?       ;!

edge    = 0x96
times   = 4

start   LOADX #times
        TRAP  askLevel
next    CMP   #edge
        JUMPC below
        LOAD  count
        INC
        STORE count
        SUB   #1
below   DECX
        CMPX  #0
        JUMPNZ next
        LOAD  count
        TRAP  showNumber
        HALT

        .origin 0x40        ;!
count   .cells 0            ;!
        .output count, decimal, "levels"
