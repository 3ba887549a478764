; Quay count: how many of the day's four levels reach the quay edge?       ;!

edge    = 0x96
times   = 4

start   LOAD  #times
        STORE left
more    TRAP  askLevel
        CMP   #edge
        JUMPC below
        LOAD  count
        INC
        STORE count
below   LOAD  left
        DEC
        STORE left
        JUMPNZ more
        LOAD  count
        TRAP  showNumber

        .origin 0x40        ;!
count   .cells 0            ;!
left    .room 1
        .output count, decimal, "levels"
