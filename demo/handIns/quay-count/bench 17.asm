; Quay count: how many of the day's four levels reach the quay edge?       ;!

edge    = 0x96
times   = 4

start   LOADX #times
next    TRAP  askLevel
        CMP   #edge
        JUMPZ below
        LOAD  count
        ADD   #1
        STORE count
below   DECX
        CMPX  #0
        JUMPNZ next
        LOAD  count
        TRAP  showNumber
        HALT

        .origin 0x40        ;!
count   .cells 0            ;!
        .output count, decimal, "levels"
