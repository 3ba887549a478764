/** Reads a program's text and the parts that it takes in, line by line, into statements. */
import { DECIMAL, type NumberRules } from '../../text/number';
import { makeSource, type Source, type Span } from '../../text/source';
import { nearest } from '../../text/nearest';
import type { AssemblyProblem } from '../problems';
import { parseStatement, type Statement, type Unit } from './syntax';
import type { Templates } from '../place/templates';
import { Tokenizer } from './tokenize';
import { Tokens, type Token } from './tokens';
import { itemAt } from '../../text/itemAt';
import type { Machine } from '../../machine/model/machine';
import { numberRules } from '../../machine/model/numbers';

export const MOST_CHARACTERS = 4_000_000;
const MOST_PARTS = 64;
const BASES: readonly number[] = [2, 8, 10, 16];

export interface Units {
  /** The program's own text first. */
  readonly all: readonly Unit[];
  readonly statements: readonly Statement[];
  readonly problems: readonly AssemblyProblem[];
  readonly exact: boolean;
  /** Base of unmarked numbers at the end of the program's own text. */
  readonly base: number;
  /** Texts that say themselves how unmarked numbers are read. */
  readonly chosen: ReadonlySet<Unit>;
}

interface UnitOptions {
  readonly source: Source;
  readonly machine: Machine;
  readonly templates: Templates;
  readonly parts?: ReadonlyMap<string, string> | undefined;
}

/** Statements of the text and of the parts that it takes in, with what is wrong with their lines. */
export function readUnits({ source, machine, templates, parts }: UnitOptions): Units {
  const usual = numberRules(machine);
  // One object for all lines where nothing is said, so that a long program keeps one.
  const rules = usual.base === 10 && usual.suffixes.size === 0 ? DECIMAL : usual;
  const reader = new UnitReader({ templates, parts, rules, exact: machine.assembly.exact });
  const own: Unit = { source, line: 0, offset: 0, tokens: new Tokens() };
  const base = reader.read(own, rules).base;
  const { all, statements, problems, exact, chosen } = reader;
  return { all, statements, problems, exact, base, chosen };
}

class UnitReader {
  readonly all: Unit[] = [];
  readonly statements: Statement[] = [];
  readonly problems: AssemblyProblem[] = [];
  readonly chosen = new Set<Unit>();
  exact: boolean;
  private offset = 0;
  private readonly templates: Templates;
  private readonly parts: UnitOptions['parts'];
  /** What holds at the beginning of every text. */
  private readonly usual: NumberRules;

  constructor({ templates, parts, rules, exact }: Pick<UnitOptions, 'templates' | 'parts'> & { rules: NumberRules; exact: boolean }) {
    this.templates = templates;
    this.parts = parts;
    this.usual = rules;
    this.exact = exact;
  }

  /** Gives the rules for numbers that hold at the end of the text. */
  read(unit: Unit, rules: NumberRules): NumberRules {
    const { text, lineStarts } = unit.source;
    this.all.push(unit);
    this.offset = unit.offset + text.length + 1;
    if (text.length > MOST_CHARACTERS) {
      const span = { start: unit.offset, end: unit.offset + 1 };
      this.problems.push({ code: 'source-too-long', grade: 'error', span, length: text.length, most: MOST_CHARACTERS });
      return rules;
    }
    const tokenizer = new Tokenizer(text, unit.offset, this.problems);
    const { tokens } = unit;
    for (let index = 0; index < lineStarts.length; index++) {
      const to = (lineStarts[index + 1] ?? text.length + 1) - 1;
      const first = tokens.count;
      tokenizer.read(lineStarts[index]!, to, rules, tokens);
      if (tokens.count === first) continue;
      const statement = parseStatement({ unit, line: index + 1, rules }, first, this.templates.mnemonics, this.problems);
      this.statements.push(statement);
      if (statement.kind !== 'directive') continue;
      const { key } = statement;
      if (key === '.base') rules = this.base(statement, rules);
      else if (key === '.case') this.case(statement);
      else if (key === '.include') this.include(statement);
    }
    return rules;
  }

  private base(statement: Statement, rules: NumberRules): NumberRules {
    const token = itemAt(statement.rest, 0);
    // The base itself is decimal, whatever held until here.
    const base = Number(token.text);
    this.chosen.add(statement.unit);
    if (BASES.includes(base) && statement.rest[1]?.kind === 'end') return { ...rules, base };
    this.problems.push({ code: 'unknown-base', grade: 'error', span: token.span });
    return rules;
  }

  private case(statement: Statement): void {
    const token = itemAt(statement.rest, 0);
    if (token.key === 'EXACT' || token.key === 'SAME') this.exact = token.key === 'EXACT';
    else this.problems.push({ code: 'unknown-case', grade: 'error', span: token.span });
  }

  private include(statement: Statement): void {
    const [token] = statement.rest as [Token];
    const { span } = token;
    if (token.kind !== 'text') return void this.problems.push({ code: 'name-expected', grade: 'error', span, directive: '.include' });
    const name = token.text.slice(1, -1);
    // A part is taken in once, however many others need it too.
    if (this.all.some((each) => each.part?.toLowerCase() === name.toLowerCase())) return;
    const names = [...(this.parts?.keys() ?? [])];
    const found = names.find((each) => each.toLowerCase() === name.toLowerCase());
    if (found !== undefined && this.all.length > MOST_PARTS)
      return void this.problems.push({ code: 'too-many-parts', grade: 'error', span, most: MOST_PARTS });
    const text = found === undefined ? undefined : this.parts!.get(found)!;
    if (text === undefined) return this.unknownPart(name, span, names);
    const line = statement.unit.part === undefined ? statement.line : statement.unit.line;
    const unit: Unit = {
      source: makeSource(name, text.replaceAll('\r\n', '\n')),
      part: name,
      line,
      offset: this.offset,
      tokens: new Tokens(),
    };
    this.read(unit, this.usual);
  }

  private unknownPart(name: string, span: Span, names: readonly string[]): void {
    const near = nearest(name, names);
    const mend = near && { title: `Write "${near}"`, edits: [{ span, text: `"${near}"` }] };
    this.problems.push({ code: 'unknown-part', grade: 'error', span, name, names, ...(mend && { mend }) });
  }
}
