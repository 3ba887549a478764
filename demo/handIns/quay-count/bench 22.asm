; Quay count: how many of the day's four levels reach the quay edge?       ;!

edge    = 0x96

start   LOADX #0
next    TRAP  askLevel
        CMP   #edge
        JUMPC below
        LOAD  count
        INC
        STORE count
below   INCX
        CMPX  #3            ; 0, 1, 2, 3
        JUMPNZ next
        LOAD  count
        TRAP  showNumber
        HALT

        .origin 0x40        ;!
count   .cells 0            ;!
        .output count, decimal, "levels"
