; Quay count: how many of the day's four levels reach the quay edge?       ;!

edge    = 0x96
times   = 4

start   LOAD  #0            ; nothing counted yet
        STORE count
        LOADX #0
again   TRAP  askLevel
        SUB   #edge
        JUMPZ lower
        LOAD  count
        INC
        STORE count
lower   INCX
        CMPX  #times
        JUMPNZ again
        LOAD  count
        TRAP  showNumber
        HALT

        .origin 0x40        ;!
count   .cells 0            ;!
        .output count, decimal, "levels"
