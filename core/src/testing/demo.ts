/** The demo machine and its programs, read from their files, for tests and measurements. */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { assemble } from '../assembler/assemble';
import type { Program } from '../image/program';
import { readWholeMachine } from '../assembler/machines';
import type { Machine } from '../machine/model/machine';
import type { Breakpoint } from '../engine/watch/breakpoints';
import { Runner } from '../engine/control/runner';

const root = join(__dirname, '../../../demo');

export const curlewText = readFileSync(join(root, 'machines/curlew.yaml'), 'utf8');
export const programText = (name: string): string => readFileSync(join(root, `programs/${name}.asm`), 'utf8');

interface Course {
  readonly machine: string;
  readonly name: string;
  readonly programs: readonly Item[];
  readonly parts?: readonly Item[];
  readonly frames?: readonly Item[];
  readonly snippets?: readonly Item[];
}

interface Item {
  readonly file: string;
  readonly name: string;
  /** Of a program: its data sets. */
  readonly sets?: string;
}

const course = JSON.parse(readFileSync(join(root, 'course.json'), 'utf8')) as readonly Course[];

/** Every demo machine with its document and the texts of its programs. */
const textsOf = (items: readonly Item[] = []) =>
  items.map(({ name, file, sets }) => ({
    name,
    text: readFileSync(join(root, file), 'utf8'),
    sets: sets === undefined ? '' : readFileSync(join(root, sets), 'utf8'),
  }));

export const demoMachines = course.map(({ machine, name, programs, parts, frames, snippets }) => ({
  name,
  text: readFileSync(join(root, machine), 'utf8'),
  programs: textsOf(programs),
  parts: textsOf(parts),
  frames: textsOf(frames),
  snippets: textsOf(snippets),
}));

const demoFile = (name: string): string => readFileSync(join(root, name), 'utf8');

/** The demo assignment, and what came in for it by label. */
export const quayCount = {
  texts: {
    ...{ machine: curlewText, language: 1, bases: {}, parts: {}, frame: demoFile('frames/quay-count.asm') },
    ...{ solution: demoFile('programs/quay-count.asm'), sets: demoFile('trials/quay-count.yaml'), mostTicks: 20_000 },
  },
  handIns: readdirSync(join(root, 'handIns/quay-count'))
    .sort()
    .map((file) => ({ label: file.replace('.asm', ''), source: demoFile(`handIns/quay-count/${file}`) })),
};

/** Machines that only tests have: a 32-bit one with byte cells, and a stack machine. */
export const fixtures = readdirSync(join(__dirname, 'machines')).map((file) => ({
  name: file.replace('.yaml', ''),
  text: readFileSync(join(__dirname, 'machines', file), 'utf8'),
}));

export function machineFrom(text: string): Machine {
  const { machine, problems } = readWholeMachine(text);
  if (!machine) throw new Error(`The machine has problems: ${problems.map((each) => `${each.line}: ${each.sentence}`).join(' ')}`);
  return machine;
}

export const curlew = machineFrom(curlewText);

export function programFrom(machine: Machine, source: string): Program {
  const { program, problems } = assemble(machine, source);
  if (!program) throw new Error(`The program has problems: ${problems.map((each) => `${each.line}: ${each.sentence}`).join(' ')}`);
  return program;
}

/** A breakpoint before the instruction at an address. */
export const breakAt = (address: number): Breakpoint => ({ id: address, on: { kind: 'address', address }, enabled: true, ignore: 0 });

export const runnerFor = (source: string, inputs: number[] = [], machine: Machine = curlew): Runner =>
  new Runner(machine, programFrom(machine, source), { inputs });

/** Curlew with its fetch rewritten so that PC moves only when an instruction has finished. */
export const lateCounterText = curlewText
  .replace('IR.op <- M[MAR], PC <- PC + 1', 'IR.op <- M[MAR]')
  .replace('MAR <- PC\n      IR.low <- M[MAR], PC <- PC + 1', 'MAR <- MAR + 1\n      IR.low <- M[MAR]')
  .replace(
    '  execute:\n    phase: Execute\n',
    '  execute:\n    phase: Execute\n  finish:\n    phase: Execute\n    ticks: |\n      PC <- next\n',
  );

/** A machine of the demo or a fixture, by its name. */
export function machineNamed(name: string): Machine {
  const found = [...demoMachines, ...fixtures].find((each) => each.name.toLowerCase() === name.toLowerCase());
  if (!found) throw new Error(`There is no machine ${name}`);
  return machineFrom(found.text);
}

export const demoProgram = (name: string): string => {
  const found = demoMachines.flatMap((each) => each.programs).find((each) => each.name === name);
  if (!found) throw new Error(`There is no demo program ${name}`);
  return found.text;
};

/** A program for Curlew that calls a routine that calls another: lines 1 to 4, 5 to 7, 8 to 9. */
export const CALLS = `start CALL outer
 LOAD #1
 STORE seen
 HALT
outer CALL inner
 INC
 RET
inner LOAD #7
 RET
seen .room 1`;
