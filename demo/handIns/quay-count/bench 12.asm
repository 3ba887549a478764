; Quay count: how many of the day's four levels reach the quay edge?       ;!

times   = 4

start   LOADX #0
next    TRAP  askLevel
        CMP   #96          ; C becomes 1 where the level stays below
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
        .output count, decimal, "levels"
