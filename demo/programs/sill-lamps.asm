; The lamps over the sill follow the switches: fog sounds the horn, a closed gate is green.

look    IN    1                 ; switches
        STORE R0
        LOAD  #0
        STORE R1
        LOAD  #0b0100           ; fog
        AND   R0
        JUMPZ clear
        LOAD  #0b1000           ; horn
        STORE R1
clear   JUMPG closed
        LOAD  #0b0001           ; red
        JUMP  show
closed  LOAD  #0b0100           ; green
show    OR    R1
        OUT   2                 ; lamps
        HALT
