        LOAD  first
        CMP   second
        JUMPNC done             ; first is not less
        LOAD  second
done    STORE greater
