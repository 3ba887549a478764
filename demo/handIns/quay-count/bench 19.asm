; Quay count: how many of the day's four levels reach the quay edge?       ;!

brim    = 0x96

start   LOAD  #4
        STORE todo
again   TRAP  askLevel

        CMP   #brim
        JUMPC small
        LOAD  count
        INC
        STORE count
small    LOAD  todo
        DEC
        STORE todo
        JUMPNZ again
        LOAD  count
        TRAP  showNumber
        HALT

        .origin 0x40        ;!
count   .cells 0            ;!
todo    .room 1
        .output count, decimal, "levels"
