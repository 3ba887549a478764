/** zettak check FILE: the problems of a machine document, or its reference card, opcode map or control table. */
import { cardAsMarkdown } from '@zettak/core/machine/model/card';
import { mapAsText } from '@zettak/core/machine/model/opcodeMap';
import { readWholeMachine } from '@zettak/core/assembler/machines';
import { controlCsv } from '@zettak/core/session/controlCsv';
import { baseBeside, problemLines } from './files';
import { PROBLEMS, type Terminal } from './terminal';

/** What is told of a machine besides its problems. */
export interface CheckOptions {
  readonly json?: boolean;
  readonly card?: boolean;
  readonly map?: boolean;
  readonly control?: boolean;
}

/** Exit code: 0 without errors, 1 with some, 2 for wrong use, as a file that cannot be read. */
export function check(terminal: Terminal, file: string, { json, card, map, control }: CheckOptions): number {
  const text = terminal.read(file);
  if (text === undefined) return terminal.wrongUse(`${file} cannot be read.`);
  const { machine, problems } = readWholeMachine(text, { name: file, base: baseBeside(terminal, file) });
  if (json) terminal.write(JSON.stringify({ file, machine: machine?.name ?? null, problems }, null, 2));
  else problemLines(file, problems).forEach(terminal.write);
  if (!machine) return PROBLEMS;
  if (card) terminal.write(cardAsMarkdown(machine));
  if (map) terminal.write(mapAsText(machine));
  if (control) terminal.write(controlCsv(machine).trimEnd());
  if (!json && !card && !map && !control) terminal.write(`${machine.name}: ${machine.forms.length} written forms, no errors.`);
  return 0;
}
