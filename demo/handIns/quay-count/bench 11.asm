; Quay count: how many of the day's four levels reach the quay edge?       ;!

edge    = 0x96
times   = 4

start   LOADX #times
again   TRAP  askLevel
        CMP   #edge
        JUMPN below         ; negative: it stays below
        LOAD  count
        INC
        STORE count
below   DECX
        CMPX  #0
        JUMPNZ again
        LOAD  count
        TRAP  showNumber
        HALT

        .origin 0x40        ;!
count   .cells 0            ;!
        .output count, decimal, "levels"
