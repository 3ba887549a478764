; The sum of the day's tide readings. Type one after the other; 0 ends the day.

start   READ
        JUMPZ done
        ADD   sum
        STORE sum
        JUMP  start

done    LOAD  sum
        WRITE
        HALT

sum     .cells 0
