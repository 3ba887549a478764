/** A small machine of five instructions, complete and explained in remarks, for tests that change one thing about it. */
export const starter = `# A new machine. Change anything: problems show beside the text as you type.
machine: Starter
title: a machine to begin with
word: {bits: 8}

spaces:
  M: {title: memory, cells: 256}

# PC says where the next instruction lies, IR holds it, MAR says which cell is meant.
registers:
  PC:  {title: program counter, role: program counter}
  IR:  {title: instruction register, role: instruction, bits: 16}
  MAR: {title: memory address register, role: memory address}
  ACC: {title: accumulator, role: accumulator}

flags:
  Z: {title: zero, rule: zero}

# Fields from left to right, with their widths in bits.
formats:
  alone: opcode 8
  value: opcode 8, value 8 either
  place: opcode 8, address 8

# What every instruction shares; IR.cell is where the cell that is being fetched belongs.
cycle:
  phases: [Fetch, Decode, Execute]
  first:
    phase: Fetch
    ticks: |
      MAR <- PC
      IR.cell <- M[MAR], PC <- PC + 1
  decode: {phase: Decode}
  more:
    phase: Fetch
    ticks: |
      MAR <- PC
      IR.cell <- M[MAR], PC <- PC + 1
  execute: {phase: Execute}

# Each line of ticks is one clock; everything on it happens at once.
instructions:
  LOAD:
    title: bring a number into the accumulator
    family: move data
    forms:
      - write: LOAD {value}
        code: value opcode=0x10
        execute: |
          ACC <- value ; flags Z
  STORE:
    title: put the accumulator into a cell
    family: move data
    forms:
      - write: STORE {address}
        code: place opcode=0x11
        execute: |
          MAR <- address
          M[MAR] <- ACC
  ADD:
    title: add a cell to the accumulator
    family: arithmetic
    forms:
      - write: ADD {address}
        code: place opcode=0x20
        execute: |
          MAR <- address
          ACC <- ACC + M[MAR] ; flags Z
  JUMPZ:
    title: go on at an address if Z is 1
    family: choose and repeat
    forms:
      - write: JUMPZ {address}
        code: place opcode=0x30
        execute: |
          if Z = 1: PC <- address
  HALT:
    title: stop the machine
    family: stop
    forms:
      - write: HALT
        code: alone opcode=0x01
        execute: halt
`;
