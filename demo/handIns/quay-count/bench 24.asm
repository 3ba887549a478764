; Quay count: how many of the day's four levels reach the quay edge?       ;!

edge    = 0x96

start   LOAD  #0
        STORE count
        TRAP  askLevel
        CMP   #edge
        JUMPC low0
        LOAD  count
        INC
        STORE count
low0    LOAD  #0
        TRAP  askLevel
        CMP   #edge
        JUMPC low1
        LOAD  count
        INC
        STORE count
low1    LOAD  #0
        TRAP  askLevel
        CMP   #edge
        JUMPC low2
        LOAD  count
        INC
        STORE count
low2    LOAD  #0
        TRAP  askLevel
        CMP   #edge
        JUMPC low3
        LOAD  count
        INC
        STORE count
low3    LOAD  #0
        LOAD  count
        TRAP  showNumber
        HALT

        .origin 0x40        ;!
count   .cells 0            ;!
        .output count, decimal, "levels"
