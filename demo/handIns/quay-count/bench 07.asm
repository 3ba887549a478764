; Quay count: how many of the day's four levels reach the quay edge?       ;!

edge    = 0x96

start   LOAD  #4
        STORE left
more    TRAP  askLevel
        CMP   #edge
        JUMPC low
        LOAD  count
        INC
        STORE count
low     LOAD  left
        DEC
        STORE left
        JUMPNZ more
        LOAD  count
        TRAP  showNumber
        HALT

        .origin 0x40        ;!
count   .cells 0            ;!
left    .room 1
        .output count, decimal, "levels"
