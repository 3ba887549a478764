; Routines of the course: half and quarter of what stands in ACC.

        .routine half
        SHR
        RET
        .end

        .routine quarter
        SHR
        SHR
        RET
        .end
