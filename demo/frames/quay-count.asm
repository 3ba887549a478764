; Quay count: how many of the day's four levels reach the quay edge?       ;!

start   LOADX #0            ; your instructions

        .origin 0x40        ;!
count   .cells 0            ;!
        .output count, decimal, "levels"
