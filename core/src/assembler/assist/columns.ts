/** Puts a program into columns: labels, operations, operands, remarks. Changes blanks and nothing else. */
import type { Machine } from '../../machine/model/machine';
import { DECIMAL } from '../../text/number';
import { templatesOf } from '../place/templates';
import { parseStatement, type Unit } from '../read/syntax';
import { Tokenizer } from '../read/tokenize';
import { Tokens } from '../read/tokens';
import { makeSource } from '../../text/source';

interface Parts {
  readonly label: string;
  readonly operation: string;
  readonly operands: string;
  readonly remark: string;
}

const LEAST_LABEL = 8;
const MOST_LABEL = 16;
const MOST_CODE = 40;

/** The text in columns. Lines that cannot be read, and lines with a remark only, stay as they are. */
export function inColumns(machine: Machine, text: string): string {
  const { mnemonics } = templatesOf(machine);
  const lines = text.split('\n').map((each) => each.trimEnd());
  const parts = lines.map((each) => partsOf(each, mnemonics));
  const widest = (pick: (each: Parts) => string, most: number): number =>
    Math.min(most, Math.max(0, ...parts.flatMap((each) => (each && pick(each).length <= most ? [pick(each).length] : []))));
  const labels = Math.max(LEAST_LABEL, widest((each) => each.label, MOST_LABEL) + 1);
  const operations = Math.max(6, widest((each) => (each.operands ? each.operation : ''), 12) + 1);
  const code = (each: Parts): string => {
    const head = each.operation === '' ? each.label : `${each.label.padEnd(labels - 1)} ${each.operation}`;
    return each.operands === '' ? head : `${head.padEnd(labels + operations - 1)} ${each.operands}`;
  };
  const remarks = Math.max(0, ...parts.flatMap((each) => (each?.remark && code(each).length <= MOST_CODE ? [code(each).length] : []))) + 2;
  return lines
    .map((line, at) => {
      const each = parts[at];
      if (!each) return line;
      return each.remark ? `${code(each).padEnd(remarks - 2)}  ${each.remark}` : code(each);
    })
    .join('\n');
}

function partsOf(line: string, mnemonics: ReadonlySet<string>): Parts | undefined {
  const problems: Parameters<typeof parseStatement>[3] = [];
  const unit: Unit = { source: makeSource('line', line), line: 0, offset: 0, tokens: new Tokens() };
  new Tokenizer(line, 0, problems).read(0, line.length, DECIMAL, unit.tokens);
  if (unit.tokens.count === 0) return undefined;
  const statement = parseStatement({ unit, line: 1, rules: DECIMAL }, 0, mnemonics, problems);
  const { end } = statement;
  if (statement.kind === 'wrong' || problems.some((each) => each.grade === 'error')) return undefined;
  const remark = line.slice(end).trim();
  const { label, operation, kind } = statement;
  const colon = label ? /^\s*:/.exec(line.slice(label.span.end)) : null;
  const name = label ? `${label.text}${colon ? ':' : ''}` : '';
  if (kind === 'constant') {
    const equals = line.indexOf('=');
    return { label: name, operation: `= ${line.slice(equals + 1, end).trim()}`, operands: '', remark };
  }
  if (!operation) return { label: name, operation: '', operands: '', remark };
  const { start, end: to } = operation.span;
  return { label: name, operation: line.slice(start, to), operands: line.slice(to, end).trim(), remark };
}
