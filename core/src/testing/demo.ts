/** The demo machine and its programs, read from their files, for tests and measurements. */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { assemble } from '../assembler/assemble';
import type { Program } from '../image/program';
import { readWholeMachine } from '../assembler/machines';
import type { Machine } from '../machine/machine';
import { Runner } from '../engine/runner';

const root = join(__dirname, '../../../demo');

export const curlewText = readFileSync(join(root, 'machines/curlew.yaml'), 'utf8');
export const programText = (name: string): string => readFileSync(join(root, `programs/${name}.asm`), 'utf8');
export const programNames = readdirSync(join(root, 'programs')).map((each) => each.replace('.asm', ''));

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
