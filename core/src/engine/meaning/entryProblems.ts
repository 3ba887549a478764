/** What can be wrong with what a person types at a run, as data, and the sentence for each. */
import { explainNotation, type NotationProblem } from '../../notation/problems';
import { numberRemedy } from '../../text/number';

/** Of a number, a place, a condition, a line of a script. `text` is what was typed. */
export type EntryProblem =
  | { readonly code: 'nothing-typed'; readonly wanted: 'number' | 'characters' | 'condition' }
  | { readonly code: 'no-number'; readonly text: string; readonly radix: number; readonly base: number }
  | { readonly code: 'number-is-name'; readonly text: string; readonly zeroed: string }
  | {
      readonly code: 'too-great';
      readonly value: number;
      readonly width: number;
      readonly radix: number;
      readonly least: number;
      readonly greatest: number;
    }
  | { readonly code: 'unknown-place'; readonly text: string; readonly nearest: string | undefined; readonly cell: string }
  | { readonly code: 'unknown-memory'; readonly name: string; readonly memories: readonly string[] }
  | { readonly code: 'no-address'; readonly text: string }
  | { readonly code: 'outside'; readonly name: string; readonly what: 'ports' | 'banks' | 'cells' | 'registers'; readonly count: number }
  | { readonly code: 'no-value' }
  | { readonly code: 'no-cells'; readonly place: string }
  | { readonly code: 'past-the-end'; readonly place: string; readonly values: number; readonly cells: number }
  | { readonly code: 'line-of-device'; readonly flag: string }
  | { readonly code: 'zero-register'; readonly register: string }
  | { readonly code: 'too-long'; readonly most: number }
  | { readonly code: 'not-in-notation'; readonly problem: NotationProblem }
  | { readonly code: 'means-nothing'; readonly text: string }
  | { readonly code: 'too-many-places'; readonly most: number }
  | { readonly code: 'no-devices' }
  | { readonly code: 'unknown-device'; readonly name: string; readonly nearest: string | undefined; readonly devices: readonly string[] }
  | { readonly code: 'unknown-kind'; readonly text: string; readonly kinds: readonly string[] }
  | { readonly code: 'unknown-line'; readonly device: string; readonly line: string; readonly lines: readonly string[] }
  | { readonly code: 'no-tick'; readonly text: string; readonly rest: string }
  | { readonly code: 'no-moment'; readonly text: string }
  | { readonly code: 'no-state'; readonly problem: EntryProblem }
  | { readonly code: 'until-missing'; readonly place: string; readonly text: string }
  | { readonly code: 'then-missing'; readonly until: string }
  | { readonly code: 'sides-differ' }
  | { readonly code: 'no-script-line' };

export interface RefusedEntry {
  readonly refused: EntryProblem;
}

const WANTED = {
  number: 'Type a number first.',
  characters: 'Type something first.',
  condition: 'Write a condition in the notation: a register or another place, a comparison, a value.',
} as const;

/** The sentence of a problem: what is wrong, and what to do. */
export function explainEntry(problem: EntryProblem): string {
  switch (problem.code) {
    case 'nothing-typed':
      return WANTED[problem.wanted];
    case 'no-number':
      return `“${problem.text.slice(0, 20)}” is no number. ${problem.radix === 10 ? 'Write decimal digits.' : numberRemedy(problem.base)}`;
    case 'number-is-name':
      return `“${problem.text}” begins with a letter and is a name. The number is written ${problem.zeroed}.`;
    case 'too-great': {
      const { value, width, radix, least, greatest } = problem;
      return `${value} does not fit into ${width} ${radix === 10 ? 'digits' : 'bits'}: ${least} to ${greatest} do.`;
    }
    case 'unknown-place': {
      const remedy = problem.nearest ? `Did you mean ${problem.nearest}?` : `A cell is written ${problem.cell}.`;
      return `“${problem.text.slice(0, 40)}” is no register, flag, label or device. ${remedy}`;
    }
    case 'unknown-memory':
      return `There is no memory “${problem.name}”. There is: ${problem.memories.join(', ')}.`;
    case 'no-address':
      return `“${problem.text}” is no number and no label.`;
    case 'outside':
      return `${problem.name} has the ${problem.what} 0 to ${problem.count - 1}.`;
    case 'no-cells':
      return `Several values stand in cells behind each other; ${problem.place} is no cell.`;
    case 'past-the-end':
      return `These are ${problem.values} values, and from ${problem.place} on there ${problem.cells === 1 ? 'is one cell' : `are ${problem.cells} cells`}.`;
    case 'no-value':
      return 'Write a place, = and a value, as “ACC = 5”.';
    case 'line-of-device':
      return `${problem.flag} is a line of a device: set that.`;
    case 'zero-register':
      return `${problem.register} reads 0 always.`;
    case 'too-long':
      return `A condition has at most ${problem.most} characters.`;
    case 'not-in-notation':
      return explainNotation(problem.problem);
    case 'means-nothing':
      return `“${problem.text}” is no value.`;
    case 'too-many-places':
      return `At most ${problem.most} places can be chosen.`;
    case 'no-devices':
      return 'This machine has no devices.';
    case 'unknown-device': {
      const remedy = problem.nearest ? `Did you mean ${problem.nearest}?` : `There is: ${problem.devices.join(', ')}.`;
      return `There is no device “${problem.name}”. ${remedy}`;
    }
    case 'unknown-kind':
      return `“${problem.text}” is no device. There are: ${problem.kinds.join(', ')}.`;
    case 'unknown-line': {
      const lines = problem.lines.length > 0 ? ` It has: ${problem.lines.join(', ')}.` : '';
      return `${problem.device} has no line “${problem.line}”.${lines}`;
    }
    case 'no-tick':
      return `“${problem.text}” is no tick. Write “at 120: ${problem.rest}”.`;
    case 'no-moment':
      return `“${problem.text}” is no moment. Write “5 reads”, “tick 200”, “a key” or “a hand”.`;
    case 'no-state':
      return `${explainEntry(problem.problem)} Or write: ready, not ready, as it is.`;
    case 'until-missing':
      return `Say until when: “${problem.place} is ${problem.text} until 5 reads, then …”, or “for ever”.`;
    case 'then-missing':
      return `Say what comes then: “… until ${problem.until}, then …”.`;
    case 'sides-differ':
      return 'Both sides are readiness, or both are values.';
    case 'no-script-line':
      return 'Write “input 12 5”, “set level = 12”, “at 120: level = 3”, or “keys is not ready until 5 reads, then as it is”.';
    default:
      return problem satisfies never;
  }
}
