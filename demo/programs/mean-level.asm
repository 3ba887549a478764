; The mean of four gauge readings, through the index register.
; The sum of four bytes can exceed a byte: the carries are counted in a cell of their own.

count   = 4

start   LOADX #0
        LOAD  #0
        STORE high
more    ADD   levels+X      ; the cell X places behind levels
        JUMPNC small
        STORE low
        LOAD  high
        INC
        STORE high
        LOAD  low
small   INCX
        CMPX  #count
        JUMPNZ more

        STORE low           ; divide high and low by four: two shifts through C
        CALL  halve
        CALL  halve
        LOAD  low
        TRAP  showNumber
        HALT

halve   LOAD  high
        SHR
        STORE high
        LOAD  low
        ROTR                ; the bit that left high enters here
        STORE low
        RET

        .origin 0x60
levels  .cells 158, 171, 166, 149
high    .room  1
low     .room  1
