/** Turns a tick's syntax into its checked tree: targets, flags and control words; values are checked in expressions. */
import { nearest } from '../text/nearest';
import { unitOf } from '../text/number';
import type { Span } from '../text/source';
import { asIndexed, checkExpr, placeOfElement, flagNamed } from './expressions';
import { operationOf } from './operation';
import { printExpr } from './print';
import { add, LATCHES, lookUp, type Meaning, type Scope, type Checking } from './scope';
import type { ActionSyntax, ExprSyntax, TickSyntax } from './syntax';
import {
  flatTargets,
  type Action,
  type Bound,
  type Expr,
  type Flagged,
  type FlagEffect,
  type Operation,
  type StockRule,
  type Target,
  type Tick,
} from './tree';

/** `tick` is undefined when `problems` holds an error. `enter` has been taken apart before. */
export function checkTick(syntax: TickSyntax, scope: Scope): { tick?: Tick; problems: Checking['problems'] } {
  const checking: Checking = { scope, problems: [] };
  const given = new Set(
    syntax.actions.flatMap((each) => {
      const flag = each.kind === 'transfer' ? flagIn(checking, each.target) : undefined;
      return flag === undefined ? [] : [flag];
    }),
  );
  const ruled = syntax.flags.filter(({ name }) => !given.has(name));
  const meant = ruled.flatMap((flag) => checkFlag(checking, flag) ?? []);
  const candidates = syntax.actions.flatMap(flaggable).filter((each) => !isFlagTransfer(checking, each));
  if (syntax.flags.length > 0 && candidates.length !== 1) {
    add(checking, { code: 'flags-need-one-operation', grade: 'error', span: syntax.span, count: candidates.length });
  }
  const flagged = syntax.flags.length > 0 ? candidates[0] : undefined;
  const actions = syntax.actions.flatMap((each) => checkAction(checking, each, flagged, meant) ?? []);
  checkAlone(checking, syntax);
  checkWriters(checking, syntax, actions);
  const broken = checking.problems.some((each) => each.grade === 'error');
  return { ...(!broken && { tick: { text: syntax.text, span: syntax.span, actions } }), problems: checking.problems };
}

type FlagMeaning = Meaning & { kind: 'flag' };

function flaggable(action: ActionSyntax): ActionSyntax[] {
  if (action.kind === 'transfer' || action.kind === 'compare') return [action];
  return action.kind === 'if' ? [...action.then, ...action.otherwise].flatMap(flaggable) : [];
}

function isFlagTransfer(checking: Checking, action: ActionSyntax): boolean {
  return action.kind === 'transfer' && flagIn(checking, action.target) !== undefined;
}

/** The name of the flag that a target names: plainly where no register has its name, or as flags.C. */
function flagIn(checking: Checking, target: ExprSyntax): string | undefined {
  if (target.kind !== 'name') return undefined;
  if (target.part !== undefined) return target.name === 'flags' ? target.part : undefined;
  return checking.scope.names.get(target.name)?.kind === 'flag' ? target.name : undefined;
}

function checkFlag(checking: Checking, { name, span }: { name: string; span: Span }): FlagMeaning | undefined {
  const meaning = flagNamed(checking, name, span);
  if (!meaning) return undefined;
  if (meaning.rule || meaning.formula) return meaning;
  add(checking, { code: 'flag-without-rule', grade: 'error', span, flag: name });
  return undefined;
}

function checkAction(
  checking: Checking,
  syntax: ActionSyntax,
  flagged: ActionSyntax | undefined,
  flags: readonly FlagMeaning[],
): Action | undefined {
  switch (syntax.kind) {
    case 'halt':
      return { kind: 'halt' };
    case 'service': {
      if (isUnknownService(checking, syntax.number)) return undefined;
      const number = checkExpr(checking, syntax.number, undefined);
      return number && { kind: 'service', number };
    }
    case 'wait': {
      const meaning = lookUp(checking, syntax.name, { start: syntax.span.end - syntax.name.length, end: syntax.span.end });
      if (meaning?.kind === 'device') return { kind: 'wait', device: meaning.device };
      if (meaning) add(checking, { code: 'not-of-kind', grade: 'error', span: syntax.span, name: syntax.name, needed: 'a device' });
      return undefined;
    }
    case 'stack': {
      const meaning = lookUp(checking, syntax.name, { start: syntax.span.end - syntax.name.length, end: syntax.span.end });
      if (meaning?.kind === 'stack') return { kind: 'stack', way: syntax.way, stack: meaning.stack };
      if (meaning) add(checking, { code: 'not-of-kind', grade: 'error', span: syntax.span, name: syntax.name, needed: 'a stack' });
      return undefined;
    }
    case 'mark': {
      const place = syntax.place && checkExpr(checking, syntax.place, checking.scope.addressWidth);
      return syntax.place && !place ? undefined : { kind: 'mark', mark: syntax.mark, ...(place && { place }) };
    }
    case 'enter':
      add(checking, { code: 'must-stand-alone', grade: 'error', span: syntax.span, word: 'enter' });
      return undefined;
    case 'compare':
      return checkCompare(checking, syntax, flags);
    case 'transfer':
      return checkTransfer(checking, syntax, syntax === flagged ? flags : undefined);
    case 'if': {
      const condition = checkExpr(checking, syntax.condition);
      const check = (each: ActionSyntax) => checkAction(checking, each, flagged, flags) ?? [];
      const then = syntax.then.flatMap(check);
      const otherwise = syntax.otherwise.flatMap(check);
      return condition && { kind: 'if', condition, text: printExpr(syntax.condition), then, otherwise };
    }
    default:
      return syntax satisfies never;
  }
}

/** Whether a service is asked for by a name that no trap has; told. */
function isUnknownService(checking: Checking, number: ExprSyntax): boolean {
  if (number.kind !== 'name' || number.part !== undefined || LATCHES.includes(number.name)) return false;
  const { names } = checking.scope;
  const services = [...names].flatMap(([name, { kind }]) => (kind === 'service' ? [name] : []));
  if (names.has(number.name) || services.length === 0) return false;
  const near = nearest(number.name, services);
  const mend = near && { title: `Write ${near}`, edits: [{ span: number.span, text: near }] };
  const shared = { grade: 'error', span: number.span, name: number.name, services } as const;
  add(checking, { code: 'unknown-service', ...shared, ...(near && { nearest: near }), ...(mend && { mend }) });
  return true;
}

function checkCompare(checking: Checking, syntax: ActionSyntax & { kind: 'compare' }, flags: readonly FlagMeaning[]): Action | undefined {
  const value = checkExpr(checking, syntax.value);
  if (!value) return undefined;
  if (flags.length === 0) {
    const expected = '“; flags …” after a compare';
    add(checking, { code: 'tick-expected', grade: 'error', span: syntax.span, expected, found: 'the end of the line' });
    return undefined;
  }
  return { kind: 'compare', flagged: checkFlagged(checking, value, flags, syntax.span) };
}

function checkTransfer(
  checking: Checking,
  syntax: ActionSyntax & { kind: 'transfer' },
  flags: readonly FlagMeaning[] | undefined,
): Action | undefined {
  const target = checkTarget(checking, syntax.target);
  const value = checkExpr(checking, syntax.value, target?.width);
  if (!target || !value) return undefined;
  if (value.width > target.width && isNamed(value)) {
    const unit = unitOf(checking.scope.radix);
    const { start, end } = syntax.value.span;
    const edits = [
      { span: { start, end: start }, text: 'low(' },
      { span: { start: end, end }, text: ')' },
    ];
    const mend = { title: 'Write low(…): the cut is meant', edits };
    add(checking, { code: 'value-cut', grade: 'remark', span: syntax.value.span, width: value.width, into: target.width, unit, mend });
  }
  const written = new Set(flatTargets(target).flatMap((each) => (each.kind === 'flag' ? [each.flag] : [])));
  const ruled = flags?.filter(({ flag }) => !written.has(flag)) ?? [];
  return { kind: 'transfer', target, value, ...(ruled.length > 0 && { flagged: checkFlagged(checking, value, ruled, syntax.span) }) };
}

/** Values whose width somebody chose: what is cut off them is told. */
const isNamed = (value: Expr): boolean => value.kind !== 'literal' && value.kind !== 'latch';

function checkFlagged(checking: Checking, value: Expr, flags: readonly FlagMeaning[], span: Span): Flagged {
  const operation = operationOf(value);
  const { radix } = checking.scope;
  const widest = Math.max(operation.a.width, operation.b?.width ?? 0, operation.operator === '*' ? 0 : operation.width);
  const most = radix === 10 ? 9 : 32;
  if (widest > most) add(checking, { code: 'too-wide-for-flags', grade: 'error', span, width: widest, most, unit: unitOf(radix) });
  const effects = flags.flatMap(({ flag, rule, formula, noBorrow, into, odd }): FlagEffect[] => {
    const shared = { flag, noBorrow, into, odd };
    if (formula && !operation.b && !checking.scope.names.has('b') && /\bb\b/.test(printExpr(formula))) {
      add(checking, { code: 'formula-needs-b', grade: 'error', span, flag: nameOfFlag(checking, flag) });
      return [];
    }
    if (formula) {
      const expr = checkFormula(checking, formula, operation);
      return expr ? [{ ...shared, rule: 'formula', formula: expr }] : [];
    }
    if (!hasMeaning(rule!, operation)) {
      add(checking, {
        code: 'rule-without-meaning',
        grade: 'error',
        span,
        flag: nameOfFlag(checking, flag),
        rule: rule!,
        operator: wordOf(operation),
      });
    }
    if (rule === 'parity' && checking.scope.radix === 10)
      add(checking, { code: 'bits-on-decimal', grade: 'error', span, operator: 'parity' });
    return [{ ...shared, rule: rule! }];
  });
  return { operation, effects };
}

const nameOfFlag = ({ scope }: Checking, flag: number): string => [...scope.flags].find(([, meaning]) => meaning.flag === flag)?.[0] ?? '';

/** A flag's formula may name a, b and result of the operation beside everything else. */
function checkFormula(checking: Checking, formula: ExprSyntax, { a, b, width }: Operation): Expr | undefined {
  const bound = (name: Bound, each: number): [string, Meaning] => [name, { kind: 'value', value: { kind: 'bound', name, width: each } }];
  const names = new Map([...checking.scope.names, bound('a', a.width), bound('result', width), ...(b ? [bound('b', b.width)] : [])]);
  return checkExpr({ scope: { ...checking.scope, names }, problems: checking.problems }, formula, 1);
}

const SHIFTS: readonly string[] = ['<<', '>>', 'asr', 'rotl', 'rotr'];

function hasMeaning(rule: StockRule, { operator }: Operation): boolean {
  if (rule === 'zero' || rule === 'negative' || rule === 'parity') return true;
  const sum = operator === '+' || operator === '-' || operator === 'negate';
  return sum || (rule !== 'half-carry' && SHIFTS.includes(operator));
}

const wordOf = ({ operator }: Operation): string => (operator === 'value' ? 'a plain value' : `“${operator}”`);

function checkTarget(checking: Checking, syntax: ExprSyntax): Target | undefined {
  if (syntax.kind === 'name' && syntax.part === undefined) {
    const meaning = lookUp(checking, syntax.name, syntax.span);
    if (!meaning) return undefined;
    if (meaning.kind === 'several') return meaning.target;
    if (meaning.kind === 'flag' && !meaning.line) return { kind: 'flag', flag: meaning.flag, width: 1 };
    if (meaning.kind !== 'register') return noTarget(checking, syntax);
  }
  if (syntax.kind === 'name' && syntax.name === 'flags' && syntax.part !== undefined) {
    const meaning = flagNamed(checking, syntax.part, syntax.span);
    return meaning && (meaning.line ? noTarget(checking, syntax) : { kind: 'flag', flag: meaning.flag, width: 1 });
  }
  if (syntax.kind === 'call' && asIndexed(checking, syntax)) return undefined;
  if (syntax.kind !== 'name' && syntax.kind !== 'slice' && syntax.kind !== 'index') return noTarget(checking, syntax);
  if (syntax.kind === 'index') {
    const meaning = checking.scope.names.get(syntax.name);
    if (meaning?.kind === 'view') return chosenTarget(checking, meaning, syntax);
  }
  const value = checkExpr(checking, syntax);
  return value && (targetOf(value) ?? noTarget(checking, syntax));
}

function chosenTarget(
  checking: Checking,
  { options, width }: Meaning & { kind: 'view' },
  syntax: ExprSyntax & { kind: 'index' },
): Target | undefined {
  const value = checkExpr(checking, syntax);
  if (value?.kind === 'choose') return { kind: 'choose', index: value.index, options: options.map((each) => each?.target), width };
  return value && options.find((each) => each?.value === value)?.target;
}

/** The place that a value is read from, where it can be written too. */
function targetOf(value: Expr): Target | undefined {
  const { width } = value;
  switch (value.kind) {
    case 'register':
      return { kind: 'register', register: value.register, high: width - 1, low: 0, width, whole: true };
    case 'slice':
      return value.field
        ? undefined
        : { kind: 'register', register: value.register, high: value.high, low: value.low, width, whole: false };
    case 'cell':
      return { kind: 'cell', space: value.space, ...(value.bank && { bank: value.bank }), address: value.address, width };
    case 'element':
      return { kind: 'element', ...placeOfElement(value), width };
    case 'port':
      return { kind: 'port', port: value.port, width };
    case 'join': {
      const parts = value.parts.map(targetOf);
      return parts.every((each) => each !== undefined) ? { kind: 'joined', parts, width } : undefined;
    }
    case 'literal':
    case 'digits':
    case 'field':
    case 'flag':
    case 'line':
    case 'latch':
    case 'shown':
    case 'bound':
    case 'choose':
    case 'holds':
    case 'unary':
    case 'binary':
    case 'shift':
    case 'resize':
      return undefined;
    default:
      return value satisfies never;
  }
}

function noTarget(checking: Checking, syntax: ExprSyntax): undefined {
  add(checking, { code: 'not-a-target', grade: 'error', span: syntax.span, text: printExpr(syntax) });
  return undefined;
}

/** A tick that may wait does nothing else, so that a wait leaves everything as it was. */
function checkAlone(checking: Checking, { actions, span }: TickSyntax): void {
  const waits = (each: ActionSyntax): boolean => each.kind === 'service' || each.kind === 'wait';
  const nested = (each: ActionSyntax): ActionSyntax[] =>
    each.kind === 'if' ? [...each.then, ...each.otherwise].flatMap((inner) => [inner, ...nested(inner)]) : [];
  const word = [...actions, ...actions.flatMap(nested)].find(waits)?.kind;
  if (word && (actions.length > 1 || !waits(actions[0]!))) add(checking, { code: 'must-stand-alone', grade: 'error', span, word });
}

/** Two writers of one place are an error where both surely act: the two branches of one `if` never do. */
function checkWriters(checking: Checking, { span }: TickSyntax, actions: readonly Action[]): void {
  const written: Target[] = [];
  const visit = (list: readonly Action[], seen: Target[]): void => {
    for (const action of list) {
      if (action.kind === 'if') {
        visit(action.then, [...seen]);
        visit(action.otherwise, [...seen]);
      }
      if (action.kind !== 'transfer') continue;
      for (const target of flatTargets(action.target)) {
        const clash = seen.find((each) => overlaps(each, target));
        if (clash) add(checking, { code: 'two-writers', grade: 'error', span, place: placeName(checking, clash) });
        seen.push(target);
      }
    }
  };
  visit(actions, written);
}

function overlaps(a: Target, b: Target): boolean {
  if (a.kind === 'register' && b.kind === 'register') return a.register === b.register && a.low <= b.high && b.low <= a.high;
  if (a.kind === 'flag' && b.kind === 'flag') return a.flag === b.flag;
  return (
    a.kind === b.kind &&
    (a.kind === 'cell' || a.kind === 'port' || a.kind === 'element' || a.kind === 'choose') &&
    JSON.stringify(a) === JSON.stringify(b)
  );
}

function placeName(checking: Checking, target: Target): string {
  for (const [name, meaning] of checking.scope.flags) if (target.kind === 'flag' && meaning.flag === target.flag) return name;
  for (const [name, meaning] of checking.scope.names) {
    if (target.kind === 'choose' && meaning.kind === 'view' && meaning.options.every((each, at) => each?.target === target.options[at]))
      return `One register of ${name}`;
    if (target.kind === 'register' && meaning.kind === 'register' && meaning.register === target.register) return name;
    if (target.kind === 'cell' && meaning.kind === 'space' && meaning.space === target.space) return `One cell of ${name}`;
    if (target.kind === 'port' && meaning.kind === 'ports') return `One port of ${name}`;
    if (target.kind === 'element' && meaning.kind === 'array' && meaning.first === target.first) return `One register of ${name}`;
  }
  throw new Error(`A target without a name: ${JSON.stringify(target)}`);
}
