/** Machines and programs from files, with what they take in from files beside them. */
import { assemble, type Assembly, type Assembling } from '@zettak/core/assembler/assemble';
import { readWholeMachine } from '@zettak/core/assembler/machines';
import type { Program } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { Problem } from '@zettak/core/text/diagnostic';
import { PROBLEMS, type Terminal } from './terminal';

/** `file:line:column: grade: sentence`, one a line, with notes on where the cause may lie. */
export const problemLines = (file: string, problems: readonly Problem[]): string[] =>
  problems.flatMap(({ line, column, grade, sentence, related = [] }) => [
    `${file}:${line}:${column}: ${grade}: ${sentence}`,
    ...related.map((each) => `${file}:${each.line}:${each.column}: note: ${each.note}.`),
  ]);

const folderOf = (file: string): string => file.replace(/[^/\\]*$/, '');

/** The machine that another is based on: a file of that name beside it. */
export const baseBeside =
  (terminal: Terminal, file: string) =>
  (name: string): string | undefined =>
    /^[\w.-]+$/.test(name) ? terminal.read(`${folderOf(file)}${/\.ya?ml$/.test(name) ? name : `${name.toLowerCase()}.yaml`}`) : undefined;

const INCLUDE = /^[^;"\n]*\.include[^\S\n]+"([^"\n]+)"/gim;
const MOST_PARTS = 100;

/** Parts that a text takes in, and those that they take in: files NAME.asm beside it. */
function partsBeside(terminal: Terminal, file: string, source: string): Map<string, string> {
  const parts = new Map<string, string>();
  const open = [source];
  for (let text = open.pop(); text !== undefined && parts.size < MOST_PARTS; text = open.pop()) {
    for (const [, name] of text.matchAll(INCLUDE)) {
      if (parts.has(name!) || !/^[\w .-]+$/.test(name!)) continue;
      const part = terminal.read(`${folderOf(file)}${name!}.asm`);
      if (part === undefined) continue;
      parts.set(name!, part);
      open.push(part);
    }
  }
  return parts;
}

/** The machine in a file, or the exit code with everything told. */
export function machineIn(terminal: Terminal, file: string): Machine | number {
  const text = terminal.read(file);
  if (text === undefined) return terminal.wrongUse(`${file} cannot be read.`);
  const { machine, problems } = readWholeMachine(text, { name: file, base: baseBeside(terminal, file) });
  problemLines(file, problems).forEach(terminal.warn);
  return machine ?? PROBLEMS;
}

/** The program in a file, assembled; or the exit code where the file cannot be read. */
export function assemblyOf(terminal: Terminal, machine: Machine, file: string, options: Pick<Assembling, 'off'> = {}): Assembly | number {
  const source = terminal.read(file);
  if (source === undefined) return terminal.wrongUse(`${file} cannot be read.`);
  return assemble(machine, source, { ...options, name: file, parts: partsBeside(terminal, file, source) });
}

/** A machine and a program for it, both without errors; or the exit code with everything told. */
export function programIn(
  terminal: Terminal,
  machineFile: string,
  sourceFile: string,
): { readonly machine: Machine; readonly program: Program } | number {
  const machine = machineIn(terminal, machineFile);
  if (typeof machine === 'number') return machine;
  const assembly = assemblyOf(terminal, machine, sourceFile);
  if (typeof assembly === 'number') return assembly;
  problemLines(sourceFile, assembly.problems).forEach(terminal.warn);
  return assembly.program ? { machine, program: assembly.program } : PROBLEMS;
}
