; Adds two levels of three decimal digits, digit by digit: bank 0 and bank 1 into bank 2.

start   LOAD  P3, #0x00         ; digit 0 is the lowest
        LOAD  #3
        STORE R4
        CLRC
next    BANK  #0
        LOAD  [P3]
        STORE R5
        BANK  #1
        LOAD  [P3]
        ADD   R5
        ADJ
        BANK  #2
        STORE [P3]
        INC   P3
        REPEAT R4, next
        HALT

        .space DATA, 0
level   .cells 8, 5, 1          ; 158
        .space DATA, 1
rise    .cells 3, 7, 0          ; 073
