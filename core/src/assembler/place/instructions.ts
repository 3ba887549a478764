/** Instructions of the first pass: which form a line is, how long it is, and the lines that a short form stands for. */
import { nameIn, written } from '../../machine/model/encode';
import { programSpaceOf, type Form } from '../../machine/model/machine';
import { place, restSpan } from './cells';
import { readItems, sizeOfItems, type Item } from './data';
import type { ToldSlip } from '../problems';
import { parseStatement, type Statement } from '../read/syntax';
import { secondIn, slipIn, type Slip } from './slips';
import { badValueIn, encodeOperands, matchOperands, operandsOfLonger, type Operand, type ShortTemplate, type Template } from './templates';
import { placeAt, type Span } from '../../text/source';
import { remarkMark } from '../read/tokenize';
import { Token } from '../read/tokens';
import { Content, find, spaceOf, type Placement } from './assembly';
import { itemAt } from '../../text/itemAt';

const MOST_NESTING = 8;
const NONE: readonly never[] = [];

type Placing = (placement: Placement, statement: Statement) => void;

/** What an instruction means: a written form or a short one, with what stands in its holes. */
class Known extends Content {
  /** Of forms that are written alike, it has the shortest; these are the longer ones. */
  readonly longer: readonly Content[];

  constructor(
    readonly template: Template | undefined,
    readonly short: ShortTemplate | undefined,
    override readonly operands: readonly Operand[],
    items?: readonly Item[],
  ) {
    super(template?.form, operands, items);
    this.longer = template && template.longer.length > 0 ? longerOf(template, operands, items) : NONE;
  }
}

const longerOf = ({ longer, settles }: Template, operands: readonly Operand[], items: readonly Item[] | undefined): Content[] =>
  longer.flatMap((each) => {
    const own = operandsOfLonger(each, operands, settles.length);
    return own ? [new Content(each.form, own, items)] : [];
  });

/** Of a form without any hole: the same for every line. */
const bareOf = (template: Template): Known => (template.found ??= new Known(template, undefined, template.settles)) as Known;

/** Lines of short forms that are no operations go to `other`. */
export function placeInstruction(placement: Placement, statement: Statement, other: Placing, expanded?: Statement): void {
  if (placement.space !== placement.machine.programSpace) {
    const { name } = programSpaceOf(placement.machine);
    placement.problems.push({
      code: 'instruction-outside',
      grade: 'error',
      span: statement.span,
      space: spaceOf(placement).name,
      program: name,
    });
  }
  let known = statement.found as Known | null | undefined;
  if (known === undefined) statement.found = known = match(placement, statement);
  if (known?.template) return placeForm(placement, statement, known, expanded);
  if (known?.short) return expand(placement, statement, { short: known.short, operands: known.operands, other });
  const candidates = placement.templates.forms.get(statement.key) ?? [];
  explainMismatch(placement, statement, candidates);
  placement.gaps.push(placement.address);
  if (candidates[0]) place(placement, statement, { kind: 'code', size: candidates[0].form.format.cells, content: new Content() });
}

function match(placement: Placement, statement: Statement): Known | null {
  const { key, isBare } = statement;
  const reader = statement.reader();
  const { at: first } = reader;
  const { templates, machine } = placement;
  for (const template of templates.forms.get(key) ?? NONE) {
    const { inline } = template.form;
    if (isBare && !inline && template.pieces.length === 0) return bareOf(template);
    reader.at = first;
    const found = matchOperands(templates, reader, template, inline !== undefined);
    if (!found) continue;
    const operands = template.settles.length === 0 ? found : [...template.settles, ...found];
    if (!inline) return new Known(template, undefined, operands);
    // A comma may stand between operands and data.
    if (reader.word().text === ',' && found.length > 0) reader.at++;
    const items = readItems(reader, null, inline === 'string' ? machine.assembly.strings : undefined);
    if (items) return new Known(template, undefined, operands, items);
  }
  for (const short of templates.shorts.get(key) ?? NONE) {
    reader.at = first;
    const operands = matchOperands(templates, reader, short);
    if (operands) return new Known(undefined, short, operands);
  }
  return null;
}

function placeForm(placement: Placement, statement: Statement, known: Known, expanded: Statement | undefined): void {
  const { longer, items } = known;
  let content: Content = known;
  if (longer.length > 0) {
    const key = `${statement.unit.part ?? ''} ${statement.line} ${placement.placed.length}`;
    const step = Math.min(placement.grown.get(key) ?? 0, longer.length);
    if (step > 0) content = itemAt(longer, step - 1);
    if (step < longer.length) growing(placement, statement, { content, key, most: longer.length });
  }
  const more = items ? sizeOfItems(items) : 0;
  place(placement, statement, { kind: 'code', size: content.form!.format.cells + more, expanded, content });
}

interface Tight {
  readonly content: Content;
  readonly key: string;
  readonly most: number;
}

function growing(placement: Placement, statement: Statement, { content, key, most }: Tight): void {
  const address = placement.address;
  const { routine } = placement;
  const fits = (): boolean => {
    const known = placement.problems.length;
    Object.assign(placement, { user: statement, scope: routine, here: address, cellWidth: programSpaceOf(placement.machine).width });
    encodeOperands(placement, content.form!, content.operands!, address);
    const tight = placement.problems.slice(known).some((each) => each.code === 'value-out-of-range' || each.code === 'other-page');
    placement.problems.length = known;
    return !tight;
  };
  placement.growing.push({ key, most, fits });
}

interface Expansion {
  readonly short: ShortTemplate;
  readonly operands: readonly Operand[];
  readonly other: Placing;
}

const expansions = new WeakMap<Statement, Statement[]>();

/** The lines that a short form stands for. Its operands are told where they were written; all else, where it stands. */
function expand(placement: Placement, statement: Statement, { short, operands, other }: Expansion): void {
  if (placement.nesting >= MOST_NESTING) return;
  let lines = expansions.get(statement);
  if (!lines) {
    const written = new Map(operands.flatMap((each) => ('any' in each ? [[each.any, each.tokens] as const] : [])));
    const { tokens } = statement.unit;
    const { start, end } = statement.span;
    lines = short.lines.map((line) => {
      const from = tokens.count;
      for (const each of splice(line, written, { start, end })) tokens.add(each.spelled, each.start, each.end);
      return parseStatement(statement, from, placement.templates.mnemonics, placement.problems);
    });
    expansions.set(statement, lines);
  }
  if (placement.nesting === 0) placement.within = short.form;
  placement.nesting++;
  for (const line of lines) {
    if (placement.total > placement.mostCells) break;
    if (line.kind === 'operation') placeInstruction(placement, line, other, line);
    else other(placement, line);
  }
  placement.nesting--;
  if (placement.nesting === 0) placement.within = undefined;
}

/** Holes in braces give way to what was written for them, at its place; the rest of the line has the place of the whole. */
function splice(line: readonly Token[], written: ReadonlyMap<string, readonly Token[]>, { start, end }: Span): Token[] {
  const tokens: Token[] = [];
  for (let at = 0; at < line.length; at++) {
    const token = itemAt(line, at);
    const hole = token.text === '{' && line[at + 2]?.text === '}' ? written.get(itemAt(line, at + 1).text) : undefined;
    if (hole) {
      at += 2;
      tokens.push(...hole);
    } else if (token.kind !== 'end') tokens.push(new Token(token.spelled, start, end));
  }
  return tokens;
}

/** One problem: the value that cannot be read where the shape is right; else what is most likely wrong, and the forms that exist. */
function explainMismatch(placement: Placement, statement: Statement, candidates: readonly Template[]): void {
  const { problems, templates } = placement;
  const { rest, operation } = statement;
  const shapes = [...candidates.filter((each) => !each.repeats), ...(templates.shorts.get(operation!.key) ?? [])];
  for (const shape of shapes) {
    const bad = badValueIn(statement.reader(), shape);
    if (bad) return void problems.push(bad);
  }
  // Of a text that is wrong from end to end nobody reads the two hundredth sentence.
  const isKnown = (key: string): boolean =>
    find(placement, { text: key, key }, placement.routine) !== undefined ||
    placement.statements.some((each) => each.isLabelled && each.label!.key === key);
  if (!placement.within && secondOperation(placement, statement, { templates, shapes, isKnown })) return;
  const found = problems.length < 200 ? slipIn(templates, rest, shapes, isKnown) : undefined;
  const slip = found?.slip;
  // The same is told of a line that begins so.
  if (slip?.kind === 'remark') return void problems.push(remarkMark(slip.text, slip.token.start));
  const { within } = placement;
  const place = slip?.kind === 'missing' ? slip.beside : slip && 'token' in slip ? slip.token : undefined;
  // What a short form stands for has no places of its own in the text.
  const span = within ? statement.span : (place?.span ?? (rest.length > 1 ? restSpan(statement) : operation!.span));
  const mend = !within && slip && 'mend' in slip ? slip.mend : undefined;
  const forms = within ? [within.written.replace(/[{}]/g, '')] : writtenForms(found?.meant ? [found.meant] : shapes);
  const shared = { grade: 'error', span, mnemonic: within?.mnemonic ?? operation!.text, forms } as const;
  const told = slip && (!within || slip.kind === 'unknown') ? toldOf(slip) : undefined;
  problems.push({ ...shared, code: 'operands-do-not-fit', ...(told && { slip: told }), ...(mend && { mend }) });
}

/** Two operations on one line, told and with a mend; false where there are none. */
function secondOperation(placement: Placement, { rest, operation, unit }: Statement, known: Parameters<typeof secondIn>[0]): boolean {
  const { span, text } = operation!;
  const second = secondIn(known, rest);
  if (!second) return false;
  const { token, labels } = second;
  const colon = { title: `Write ${text}:`, edits: [{ span: { start: span.end, end: span.end }, text: ':' }] };
  if (labels) {
    placement.problems.push({ code: 'label-is-operation', grade: 'error', span, name: text, mend: colon });
    return true;
  }
  const at = rest.indexOf(token);
  const gap = { start: at === 0 ? span.end : itemAt(rest, at - 1).end, end: token.start };
  const { column } = placeAt(unit.source, span.start - unit.offset);
  const mend = { title: 'Put it on a line of its own', edits: [{ span: gap, text: `\n${' '.repeat(column - 1)}` }] };
  const others = at === 0 ? { others: [colon] } : {};
  placement.problems.push({ code: 'two-on-a-line', grade: 'error', span: token.span, name: token.text, mend, ...others });
  return true;
}

/** As they are written, in the order of the machine, a hole as the name of what stands there. */
function writtenForms(shapes: readonly (Template | ShortTemplate)[]): string[] {
  const own = shapes.flatMap((each) => ('longer' in each ? [each, ...each.longer] : [])).sort((a, b) => a.form.index - b.form.index);
  const shorts = shapes.flatMap((each) => ('longer' in each ? [] : [each.form.written]));
  return [...new Set([...own.map(writtenWith), ...shorts].map((each) => each.replace(/[{}]/g, '')))];
}

/** As much of it as a sentence tells. */
function toldOf(slip: Exclude<Slip, { kind: 'remark' }>): ToldSlip {
  switch (slip.kind) {
    case 'missing':
      return { kind: slip.kind, mark: slip.mark, side: slip.side, beside: slip.beside.text };
    case 'extra':
      return { kind: slip.kind, text: slip.token.text };
    case 'number':
      return { kind: slip.kind, text: slip.text, written: slip.written };
    case 'register':
      return { kind: slip.kind, text: slip.token.text };
    case 'unknown':
      return { kind: slip.kind, text: slip.token.text, names: slip.names, nearest: slip.nearest };
    case 'count':
      return slip;
    default:
      return slip satisfies never;
  }
}

/** A form as it is written with the names that the operation has settled. */
const writtenWith = ({ form, settles }: { readonly form: Form; readonly settles: Template['settles'] }): string =>
  written(form, (field) => {
    const settled = settles.find((each) => each.field === field);
    return settled ? (nameIn(field, settled.named) ?? '') : `{${field.name}}`;
  });
