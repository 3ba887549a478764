/** Which way a value travels over the drawing. The same code finds the idle lines and the way of each token. */
import type { PlaceRef, ReadValue, TickReport, Transfer } from '@zettak/core/engine/meaning/report';
import { registersIn, withRole, type Machine } from '@zettak/core/machine/model/machine';
import { operationOf } from '@zettak/core/notation/check';
import { rolesOf } from '@zettak/core/engine/meaning/tickRecorder';
import { flatActions, possibleTargets, type ElementPlace, type Expr, type Target } from '@zettak/core/notation/tree';
import { shownDigits } from '@zettak/core/text/number';
import { boxOf, type Drawing } from './layout';
import { itemAt } from '@zettak/core/text/itemAt';

export interface Point {
  readonly x: number;
  readonly y: number;
}

export interface Journey {
  readonly points: readonly Point[];
  readonly path: 'address' | 'data';
  /** The value as its token shows it. */
  readonly text: string;
  /** Journeys of stage 1 begin when those of stage 0 have arrived. */
  readonly stage: 0 | 1;
}

type Where =
  | { readonly kind: 'register'; readonly register: number }
  | { readonly kind: 'space'; readonly space: number }
  | { readonly kind: 'outside' };
type AluInput = 'a' | 'b';

const p = (x: number, y: number): Point => ({ x, y });

interface Ground {
  readonly machine: Machine;
  readonly drawing: Drawing;
}

/** From a register's edge to the trunk. */
function toTrunk({ drawing }: Ground, register: number): Point[] {
  const box = boxOf(drawing, register);
  const y = box.look === 'large' ? box.y + 26 : box.y + box.height / 2;
  return [p(box.side === 'left' ? box.x + box.width : box.x, y), p(drawing.trunk.x, y)];
}

/** Between the trunk and any place. */
function reach(ground: Ground, where: Where, path: 'address' | 'data'): Point[] {
  const { drawing } = ground;
  switch (where.kind) {
    case 'register':
      return toTrunk(ground, where.register);
    case 'space': {
      const y = path === 'address' ? drawing.addressLine : drawing.dataLine;
      return [p(itemAt(drawing.spaces, where.space).x, y), p(drawing.trunk.x, y)];
    }
    case 'outside':
      return [p(drawing.trunk.x, drawing.outside.y), p(drawing.trunk.x, drawing.outside.y - 8)];
    default:
      return where satisfies never;
  }
}

/** Beside the memory, its own registers speak with it directly. */
function direct({ machine, drawing }: Ground, from: Where, to: Where): Point[] | undefined {
  const [register, space] = from.kind === 'register' ? [from, to] : [to, from];
  if (register.kind !== 'register' || space.kind !== 'space') return undefined;
  const { role } = itemAt(machine.registers, register.register);
  if (role !== 'memory address' && role !== 'memory data') return undefined;
  const box = boxOf(drawing, register.register);
  const y = box.y + box.height / 2;
  const target = itemAt(drawing.spaces, space.space);
  const meet = Math.min(Math.max(y, target.y + 12), target.y + target.height - 12);
  const points =
    meet === y
      ? [p(box.x + box.width, y), p(target.x, y)]
      : [p(box.x + box.width, y), p(target.x - 12, y), p(target.x - 12, meet), p(target.x, meet)];
  return from === register ? points : points.toReversed();
}

function way(ground: Ground, from: Where, to: Where, path: 'address' | 'data'): Point[] {
  const short = direct(ground, from, to);
  if (short) return short;
  return [...reach(ground, from, path), ...reach(ground, to, path).toReversed()];
}

function intoAlu(ground: Ground, from: Where, input: AluInput): Point[] {
  const { machine, drawing } = ground;
  const { alu } = drawing;
  const target = p(input === 'a' ? alu.x + 32 : alu.x + alu.width - 28, alu.y);
  if (from.kind === 'register') {
    const box = boxOf(drawing, from.register);
    if (input === 'a' && itemAt(machine.registers, from.register).role === 'accumulator' && box.y < alu.y)
      return [p(target.x, box.y + box.height), target];
    if (box.side === 'right' && box.y > alu.y) {
      const y = box.y + 10;
      return [p(box.x + box.width, y), p(drawing.sideRiser, y), p(drawing.sideRiser, alu.y - 12), p(target.x, alu.y - 12), target];
    }
  }
  const y = input === 'a' ? alu.y - 10 : alu.y - 18;
  return [...reach(ground, from, 'data'), p(drawing.trunk.x, y), p(target.x, y), target];
}

function outOfAlu(ground: Ground, to: Where): Point[] {
  const { machine, drawing } = ground;
  const { alu } = drawing;
  const start = [p(alu.x + alu.width / 2, alu.y + alu.height), p(alu.x + alu.width / 2, alu.y + alu.height + 10)];
  if (to.kind === 'register' && itemAt(machine.registers, to.register).role === 'accumulator') {
    const box = boxOf(drawing, to.register);
    const y = box.y + box.height - 18;
    return [...start, p(drawing.riser, alu.y + alu.height + 10), p(drawing.riser, y), p(box.x, y)];
  }
  return [...start, p(drawing.trunk.x, alu.y + alu.height + 10), ...reach(ground, to, 'data').toReversed()];
}

/** A register that steps itself: a small loop at its corner. */
function loop({ drawing }: Ground, register: number): Point[] {
  const box = boxOf(drawing, register);
  const x = box.x + box.width - 34;
  return [p(x, box.y), p(x, box.y - 12), p(x + 22, box.y - 12), p(x + 22, box.y)];
}

const whereOf = (place: PlaceRef): Where | undefined =>
  place.kind === 'register'
    ? { kind: 'register', register: place.register }
    : place.kind === 'cell'
      ? { kind: 'space', space: place.space }
      : place.kind === 'port' || place.kind === 'line'
        ? { kind: 'outside' }
        : undefined;

/** The ways of everything that moved in a tick. */
export function journeysOf(machine: Machine, drawing: Drawing, report: TickReport): Journey[] {
  const ground = { machine, drawing };
  const journeys = report.transfers.flatMap((each) => transferJourneys(ground, each));
  if (report.compared) journeys.push(...operandJourneys(ground, report.compared.sources));
  const { service } = report;
  if (service?.kind?.startsWith('write') && service.place && service.value !== undefined) {
    const text = shownDigits(service.value, service.place.width, machine);
    for (const register of service.place.registers)
      journeys.push({ points: way(ground, { kind: 'register', register }, { kind: 'outside' }, 'data'), path: 'data', text, stage: 0 });
  }
  return journeys;
}

function transferJourneys(ground: Ground, transfer: Transfer): Journey[] {
  const to = whereOf(transfer.target);
  if (!to) return [];
  const text = shownDigits(transfer.value, transfer.width, ground.machine);
  const { path } = transfer;
  const addressed = addressJourneys(ground, transfer, to);
  switch (transfer.route) {
    case 'service':
      return [{ points: way(ground, { kind: 'outside' }, to, 'data'), path, text, stage: 0 }];
    case 'count':
      return to.kind === 'register' ? [{ points: loop(ground, to.register), path, text, stage: 0 }] : [];
    case 'alu':
      return [...addressed, ...operandJourneys(ground, transfer.sources), { points: outOfAlu(ground, to), path, text, stage: 1 }];
    case 'straight': {
      const from = transfer.sources[0]?.place && whereOf(transfer.sources[0].place);
      if (!from) return addressed;
      return [
        ...addressed,
        { points: way(ground, from, to, 'data'), path, text, stage: addressed.length > 0 && from.kind === 'space' ? 1 : 0 },
      ];
    }
    default:
      return transfer.route satisfies never;
  }
}

/** The address on its way to the memory that is read or written. */
function addressJourneys(ground: Ground, { addressed, sources, target }: Transfer, to: Where): Journey[] {
  const cell =
    target.kind === 'cell' ? to : sources.map((each) => each.place && whereOf(each.place)).find((each) => each?.kind === 'space');
  const [reading] = addressed;
  const from = reading?.place && whereOf(reading.place);
  if (!cell || !from) return [];
  return [
    {
      points: way(ground, from, cell, 'address'),
      path: 'address',
      text: shownDigits(reading.value, reading.width, ground.machine),
      stage: 0,
    },
  ];
}

function operandJourneys(ground: Ground, sources: readonly ReadValue[]): Journey[] {
  return sources.slice(0, 2).flatMap((each, at): Journey[] => {
    const from = each.place && whereOf(each.place);
    if (!from) return [];
    return [
      {
        points: intoAlu(ground, from, at === 0 ? 'a' : 'b'),
        path: 'data',
        text: shownDigits(each.value, each.width, ground.machine),
        stage: 0,
      },
    ];
  });
}

export interface Wire {
  readonly points: readonly Point[];
  readonly path: 'address' | 'data';
}

/** Every line that some tick of the machine uses, once each. */
export function wiresOf(machine: Machine, drawing: Drawing): Wire[] {
  const ground = { machine, drawing };
  const wires = new Map<string, Wire>();
  const add = (points: readonly Point[], path: Wire['path']): void => {
    if (points.length > 1) wires.set(points.map(({ x, y }) => `${x},${y}`).join(' '), { points, path });
  };
  for (const { tick } of [...machine.opening, ...machine.forms.flatMap((each) => each.schedule), ...machine.entry]) {
    for (const action of flatActions(tick.actions)) {
      if (action.kind === 'transfer') for (const target of possibleTargets(action.target)) wireTransfer(ground, target, action.value, add);
      if (action.kind === 'compare') wireOperands(ground, action.flagged.operation, add);
    }
  }
  for (const { argument, result } of machine.traps) {
    const place = argument ?? result;
    for (const register of place ? registersIn(place) : [])
      add(way(ground, { kind: 'register', register }, { kind: 'outside' }, 'data'), 'data');
  }
  return [...wires.values()];
}

type Add = (points: readonly Point[], path: Wire['path']) => void;

const registersOf = ({ first, count, scale, offset }: ElementPlace): Where[] =>
  Array.from({ length: count }, (_, at) => ({ kind: 'register', register: first + scale * at + offset }));

function goalsOf(target: Target): Where[] {
  switch (target.kind) {
    case 'cell':
      return [{ kind: 'space', space: target.space }];
    case 'register':
      return [{ kind: 'register', register: target.register }];
    case 'element':
      return registersOf(target);
    case 'port':
      return [{ kind: 'outside' }];
    case 'flag':
    case 'nowhere':
    case 'choose':
    case 'joined':
      return [];
    default:
      return target satisfies never;
  }
}

function wireTransfer(ground: Ground, target: Target, value: Expr, add: Add): void {
  for (const to of goalsOf(target)) {
    if (target.kind === 'cell') wireAddress(ground, target.address, to, add);
    if (value.kind === 'cell') wireAddress(ground, value.address, { kind: 'space', space: value.space }, add);
    const operation = operationOf(value);
    if (operation.operator === 'value') {
      for (const from of sourcesOf(ground, value)) if (!sameWhere(from, to)) add(way(ground, from, to, 'data'), 'data');
      continue;
    }
    if (to.kind === 'register' && stepsItself(ground, to.register, value)) continue;
    wireOperands(ground, operation, add);
    add(outOfAlu(ground, to), 'data');
  }
}

const sameWhere = (a: Where, b: Where): boolean => JSON.stringify(a) === JSON.stringify(b);

function stepsItself({ machine }: Ground, register: number, value: Expr): boolean {
  const steps =
    value.kind === 'binary' && value.left.kind === 'register' && value.right.kind === 'literal' && value.left.register === register;
  return steps && rolesOf(machine).counting.has(register);
}

function wireOperands(ground: Ground, { a, b }: { a: Expr; b?: Expr }, add: Add): void {
  for (const from of sourcesOf(ground, a)) add(intoAlu(ground, from, 'a'), 'data');
  for (const from of b ? sourcesOf(ground, b) : []) add(intoAlu(ground, from, 'b'), 'data');
}

function wireAddress(ground: Ground, address: Expr, space: Where, add: Add): void {
  for (const from of sourcesOf(ground, address)) add(way(ground, from, space, 'address'), 'address');
}

/** Where a value that is only moved comes from; nothing where an operation makes it. */
function sourcesOf(ground: Ground, expr: Expr): Where[] {
  switch (expr.kind) {
    case 'register':
    case 'slice':
    case 'field':
      return [{ kind: 'register', register: expr.register }];
    case 'element':
      return registersOf(expr);
    case 'latch':
      return [{ kind: 'register', register: ground.machine.programCounter }];
    case 'cell':
      return [{ kind: 'space', space: expr.space }];
    case 'port':
    case 'line':
    case 'shown':
      return [{ kind: 'outside' }];
    case 'resize':
    case 'digits':
      return sourcesOf(ground, expr.operand);
    case 'join':
      return expr.parts.flatMap((each) => sourcesOf(ground, each));
    case 'choose':
      return expr.options.flatMap((each) => (each ? sourcesOf(ground, each) : []));
    case 'holds':
    case 'literal':
    case 'flag':
    case 'bound':
    case 'unary':
    case 'binary':
    case 'shift':
      return [];
    default:
      return expr satisfies never;
  }
}

/** The register that addresses the memory, where there is one. */
export const addressRegister = (machine: Machine): number | undefined => withRole(machine, 'memory address');
