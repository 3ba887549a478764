; The day's highest water.
; Type one gauge reading after the other; 0 ends the day.

start   LOAD  #0
        STORE highest
next    LOAD  #prompt
        TRAP  showText
        TRAP  askLevel      ; waits for a number
        CMP   #0
        JUMPZ report
        CMP   highest       ; C = 1: lower than the highest so far
        JUMPC next
        STORE highest
        JUMP  next

report  LOAD  #result
        TRAP  showText
        LOAD  highest
        TRAP  showNumber
        HALT

        .origin 0x60
highest .room  1
prompt  .text  "level? ", 0
result  .text  "highest: ", 0
