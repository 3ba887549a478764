/** What the measurements run: the demo machine, the same machine written by hand, and one with 65,536 cells. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { assemble } from '@zettak/core/assembler/assemble';
import type { Program } from '@zettak/core/image/program';
import { readMachine } from '@zettak/core/machine/read';
import type { Machine } from '@zettak/core/machine/model/machine';

const root = process.env.ZETTAK_ROOT ?? process.cwd();
export const curlewText = readFileSync(join(root, 'demo/machines/curlew.yaml'), 'utf8');

function machineFrom(text: string): Machine {
  const { machine, problems } = readMachine(text);
  if (!machine) throw new Error(problems.map((each) => each.sentence).join(' '));
  return machine;
}

const began = performance.now();
export const curlew = machineFrom(curlewText);
/** Milliseconds that the first reading of this process took. */
export const coldReading = performance.now() - began;

export const gannetText = readFileSync(join(root, 'demo/machines/gannet.yaml'), 'utf8');

/** Curlew's instructions with 16-bit addresses, so that long programs have room. */
export const wide = machineFrom(
  curlewText
    .replace('M: {title: memory, cells: 256, bits: 8}', 'M: {title: memory, cells: 65536, bits: 8}')
    .replace(
      'PC:  {title: program counter, role: program counter, bits: 8}',
      'PC:  {title: program counter, role: program counter, bits: 16}',
    )
    .replace("bits: 16, parts: {op: '15:8', low: '7:0'}", "bits: 24, parts: {op: '23:16', high: '15:8', low: '7:0'}")
    .replace(
      'MAR: {title: memory address register, role: memory address, bits: 8}',
      'MAR: {title: memory address register, role: memory address, bits: 16}',
    )
    .replace(
      'SP:  {title: stack pointer, role: stack pointer, bits: 8, start: 0xF0}',
      'SP:  {title: stack pointer, role: stack pointer, bits: 16, start: 0xFFF0}',
    )
    .replace('direct:    opcode 8, address 8', 'direct:    opcode 8, address 16')
    .replace('branch:    opcode 4, c 4 condition, address 8', 'branch:    opcode 4, c 4 condition, address 16'),
);

export function programFor(machine: Machine, source: string): Program {
  const { program, problems } = assemble(machine, source);
  if (!program) throw new Error(problems.map((each) => `${each.line}: ${each.sentence}`).join(' '));
  return program;
}

/** A loop of loads, stores, arithmetic, a subroutine and jumps that never ends. */
export const LOOP = `
start   LOAD  #0
loop    ADD   #3
        STORE level
        CMP   limit
        JUMPC more
        LOAD  #1
more    CALL  half
        SUB   level
        JUMPNZ loop
        JUMP  start
half    SHR
        RET
        .origin 0x80
level   .cells 0
limit   .cells 200
`;

/** 1 where a byte has an even count of ones. */
const EVEN = Uint8Array.from({ length: 256 }, (_, byte) => ([...byte.toString(2)].filter((each) => each === '1').length + 1) % 2);

/** The same machine as a person would write it for speed alone, with PC, MAR, MDR, IR, ACC, SP and all flags kept. Returns a check value. */
export function runByHand(cells: readonly number[], ticks: number): { done: number; check: number } {
  const m = new Uint8Array(256);
  m.set(cells);
  let pc = 0,
    ir = 0,
    mar = 0,
    mdr = 0,
    acc = 0,
    sp = 0xf0;
  let z = 0,
    n = 0,
    c = 0,
    v = 0,
    h = 0,
    p = 0;
  let done = 0;
  while (done < ticks) {
    mar = pc;
    ir = m[mar]! << 8;
    pc = (pc + 1) & 255;
    const op = ir >> 8;
    done += 3;
    if (op !== 0x38 && op !== 0x39 && op !== 0x61 && op !== 0x64 && op !== 0x65 && op !== 0x0f) {
      mar = pc;
      ir |= m[mar]!;
      pc = (pc + 1) & 255;
      done += 2;
    }
    const low = ir & 255;
    switch (op) {
      case 0x1f:
        acc = low;
        z = acc === 0 ? 1 : 0;
        n = acc >> 7;
        done += 1;
        break;
      case 0x12:
        mar = low;
        mdr = m[mar]!;
        acc = mdr;
        z = acc === 0 ? 1 : 0;
        n = acc >> 7;
        done += 3;
        break;
      case 0x26:
        mar = low;
        mdr = acc;
        m[mar] = mdr;
        done += 2;
        break;
      case 0x3a: {
        const r = acc + low;
        c = r >> 8;
        v = (((acc ^ r) & (low ^ r)) >> 7) & 1;
        h = ((acc & 15) + (low & 15)) >> 4;
        p = EVEN[r & 255]!;
        acc = r & 255;
        z = acc === 0 ? 1 : 0;
        n = acc >> 7;
        done += 1;
        break;
      }
      case 0x34: {
        mar = low;
        mdr = m[mar]!;
        const r = acc - mdr;
        c = r < 0 ? 1 : 0;
        v = (((acc ^ mdr) & (acc ^ r)) >> 7) & 1;
        h = (acc & 15) < (mdr & 15) ? 1 : 0;
        p = EVEN[r & 255]!;
        acc = r & 255;
        z = acc === 0 ? 1 : 0;
        n = acc >> 7;
        done += 3;
        break;
      }
      case 0x35: {
        mar = low;
        mdr = m[mar]!;
        const r = acc - mdr;
        c = r < 0 ? 1 : 0;
        v = (((acc ^ mdr) & (acc ^ r)) >> 7) & 1;
        h = (acc & 15) < (mdr & 15) ? 1 : 0;
        p = EVEN[r & 255]!;
        const q = r & 255;
        z = q === 0 ? 1 : 0;
        n = q >> 7;
        done += 3;
        break;
      }
      case 0x39:
        c = acc & 1;
        acc >>= 1;
        p = EVEN[acc]!;
        v = 0;
        z = acc === 0 ? 1 : 0;
        n = acc >> 7;
        done += 1;
        break;
      case 0x40:
        pc = low;
        done += 1;
        break;
      case 0x51:
        if (z === 0) pc = low;
        done += 1;
        break;
      case 0x53:
        if (c === 1) pc = low;
        done += 1;
        break;
      case 0x60:
        sp = (sp - 1) & 255;
        mdr = pc;
        mar = sp;
        m[mar] = mdr;
        pc = low;
        done += 4;
        break;
      case 0x61:
        mar = sp;
        mdr = m[mar]!;
        sp = (sp + 1) & 255;
        pc = mdr;
        done += 3;
        break;
      default:
        throw new Error(`No hand-written opcode ${op}`);
    }
  }
  return { done, check: pc + mar + mdr + acc + sp + z + n + c + v + h + p };
}

/**
 * A program of so many lines as people write them: 30 in 100 blank or remark, routines with calls, loops and data. It
 * has no errors and at most a few remarks. 50,000 lines fill most of 65,536 cells.
 */
export function longProgram(lines: number): string {
  const text = ['start   CALL  work0', '        HALT'];
  for (let turn = 0; text.length < lines - 20; turn++) {
    text.push(
      `; routine ${turn} works one reading out`,
      '',
      `.routine work${turn}`,
      '        LOAD  level          ; as the gauge gave it',
      '        SHR',
      '        SHL',
      '; half of it twice',
      `again   ADD   #0x1F + ${turn % 7}`,
      '        INCX',
      '        JUMPC again',
      '',
      `        STORE count + ${turn % 5}`,
      '        SHR',
      '        SHL                  ; and back',
      '; the next routine goes on',
      turn % 40 === 39 ? '' : `        CALL  work${turn + 1}`,
      '        RET',
      '.end',
      '',
      `note${turn}  = 'A' + ${turn % 26}`,
    );
  }
  // The last call of the last routine has nowhere to go but the end.
  const last = text.filter((each) => each.startsWith('.routine')).length;
  text.push(`.routine work${last}`, '        RET', '.end', '; data', 'level   .cells 158', 'count   .room 5');
  while (text.length < lines) text.push('');
  return text.join('\n');
}
