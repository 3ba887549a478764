; Counts the blasts of the foghorn down to nothing.

more    LOAD  blasts
        JUMPZ quiet
        WRITE
        SUB   one
        STORE blasts
        JUMP  more

quiet   HALT

blasts  .cells 3
one     .cells 1
