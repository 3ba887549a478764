; Quay watch: will the water reach the quay edge?
; Level and rise in centimetres. Step through it and watch the flags.

quay    = 0xC0              ; height of the quay edge, 192 cm

start   LOAD  level
        ADD   rise          ; 158 + 43: N becomes 1, read as signed it is -55
        STORE later
        CMP   #quay         ; C would be 1 if the water stayed below the edge
        SUB   #quay
        STORE over          ; centimetres over the edge
        SHR                 ; half of it, the odd bit goes to C
        HALT

        .origin 0x40
level   .cells 0x9E         ; 158 cm, from the gauge
rise    .cells 43           ; until high water
later   .room  1
over    .room  1

        .input  level, hex, "cm"
        .input  rise, decimal, "cm"
        .output over, decimal, "cm"
