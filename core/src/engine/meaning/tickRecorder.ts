/** Takes down what a tick does: transfers with their routes, flags with their operands, what is changed. */
import { withRole, type Machine } from '../../machine/model/machine';
import { pairOf, pairsOf, type RegisterPair } from '../../machine/model/pairs';
import { stepOf, workIn } from '../../notation/operation';
import type { Expr, Target } from '../../notation/tree';
import { digitsAt, joinedValue, plainOf } from '../../text/number';
import { withMore } from './evaluate';
import type {
  FlagChange,
  Joint,
  MarkReport,
  PlaceRef,
  ReadValue,
  Route,
  ServiceReport,
  TickReport,
  Transfer,
  Worked,
  ConditionReport,
} from './report';
import { portLatch, type Change, type State } from './state';

export interface Roles {
  /** Registers whose values are addresses on their way. */
  readonly addresses: ReadonlySet<number>;
  /** Registers that may step themselves without the ALU. */
  readonly counting: ReadonlySet<number>;
  /** Registers that hold places and instructions, not results of arithmetic. */
  readonly places: ReadonlySet<number>;
  readonly pairs: readonly RegisterPair[];
}

const RESULTS: readonly (string | undefined)[] = ['accumulator', 'general', 'argument', 'result', 'kept', 'temporary'];
const PLACES: readonly (string | undefined)[] = [
  'program counter',
  'instruction',
  'memory address',
  'memory data',
  'stack pointer',
  'link',
  'status',
];

/** Found once for an executor: it looks through all registers. */
export function rolesOf(machine: Machine): Roles {
  const addresses = (['program counter', 'memory address', 'stack pointer'] as const).map((role) => withRole(machine, role));
  const where = (holds: (role: string | undefined) => boolean): Set<number> =>
    new Set(machine.registers.flatMap(({ role }, at) => (holds(role) ? [at] : [])));
  return {
    addresses: new Set(addresses.filter((each) => each !== undefined)),
    counting: where((role) => !RESULTS.includes(role)),
    places: where((role) => PLACES.includes(role)),
    pairs: pairsOf(machine),
  };
}

/** How a value comes to a place: moved, counted, or through the ALU. */
export function routeOf({ counting }: Pick<Roles, 'counting'>, target: Target, expr: Expr): Route {
  if (!workIn(expr)) return 'straight';
  const step = stepOf(expr);
  const counts = target.kind === 'register' && step?.register === target.register && counting.has(target.register);
  return counts ? 'count' : 'alu';
}

interface Moved {
  readonly place: PlaceRef;
  readonly target: Target;
  readonly value: number;
  readonly route: Route;
  readonly worked: Worked | undefined;
  readonly sources: readonly ReadValue[];
  readonly addressed: readonly ReadValue[];
  readonly joint: Joint | undefined;
  readonly parts: readonly ReadValue[] | undefined;
  readonly lowest: number;
}

/** How a transfer comes about, besides its place and value. */
export interface TransferTrace {
  readonly expr: Expr;
  readonly worked: Worked | undefined;
  readonly sources: readonly ReadValue[];
  readonly parts: readonly ReadValue[] | undefined;
  /** Inputs that this tick had taken before. */
  readonly taken: number;
  /** What it is a part of. */
  readonly joint?: Joint | undefined;
}

export class TickRecorder {
  readonly changes: Change[] = [];
  transfers: Transfer[] = [];
  compared: TickReport['compared'];
  condition: TickReport['condition'];
  decoded: TickReport['decoded'];
  service: ServiceReport | undefined;
  guard: ConditionReport | undefined;
  awaited: number | undefined;
  marks: MarkReport[] = [];
  flags: readonly FlagChange[] = [];

  constructor(
    private readonly machine: Machine,
    private readonly state: State,
    private readonly roles: Roles,
    /** It tells what would happen, and nothing is to change. */
    readonly dry: boolean,
  ) {}

  /** How a value comes to its place. */
  routeOf(target: Target, expr: Expr): Route {
    return routeOf(this.roles, target, expr);
  }

  /** For a tick that is dropped: what comes instead tells for itself. */
  forget(): void {
    this.transfers = [];
    this.compared = undefined;
    this.condition = undefined;
    this.decoded = undefined;
    this.service = undefined;
    this.guard = undefined;
    this.awaited = undefined;
    this.marks = [];
    this.flags = [];
  }

  /** Takes a flag down, changed or not. */
  flag(change: FlagChange): void {
    this.flags = withMore(this.flags, change);
  }

  /** Takes a transfer down, before it is written. */
  transfer({ place, target, value, route, worked, sources, addressed, joint, parts, lowest }: Moved): void {
    const register = place.kind === 'register' ? place.register : undefined;
    this.transfers.push({
      sources,
      addressed,
      target: place,
      before: this.valueAt(place, target.width),
      value,
      width: target.width,
      route,
      path: register !== undefined && this.roles.addresses.has(register) ? 'address' : 'data',
      worked,
      lost: register !== undefined && this.machine.registers[register]!.zero,
      joint,
      parts,
      lowest,
    });
  }

  /** Registers that are written as one, before they are; undefined where anything else is among them. */
  jointOf(parts: readonly { readonly place: PlaceRef }[], value: bigint): Joint | undefined {
    const { machine, state, roles } = this;
    const whole = ({ place }: { readonly place: PlaceRef }): number[] =>
      place.kind === 'register' && place.low === 0 && place.high === machine.registers[place.register]!.width - 1 ? [place.register] : [];
    const registers = parts.flatMap(whole);
    if (registers.length < 2 || registers.length < parts.length) return undefined;
    const joined = registers.map((at) => ({ value: state.registers[at]!, width: machine.registers[at]!.width }));
    const place = pairOf(machine, roles.pairs, registers);
    return {
      place,
      before: joinedValue(joined, machine.radix),
      value: plainOf(value),
      width: joined.reduce((sum, each) => sum + each.width, 0),
    };
  }

  /** A value that a service brings. */
  brought(place: PlaceRef, value: number, width: number): void {
    const shared = { sources: [], addressed: [], worked: undefined, lost: false } as const;
    this.transfers.push({ ...shared, target: place, before: this.valueAt(place, width), value, width, route: 'service', path: 'data' });
  }

  /** A call, return or trap with where it goes and comes back to. */
  markOf(kind: 'call' | 'return' | 'trap', place: number | undefined, next: number): MarkReport {
    const jump = this.transfers.findLast((each) => each.target.kind === 'register' && each.target.register === this.machine.programCounter);
    const target = jump?.value ?? this.state.registers[this.machine.programCounter]!;
    return { kind, target, returnTo: kind === 'return' ? undefined : (place ?? next) };
  }

  private valueAt(place: PlaceRef, width: number): number {
    const { state, machine } = this;
    switch (place.kind) {
      case 'register':
        return digitsAt(state.registers[place.register]!, place.low, width, machine.radix);
      case 'flag':
        return state.flags[place.flag]!;
      case 'cell':
        return state.spaces[place.space]![place.address]!;
      case 'port':
        return state.latches[portLatch(place.port)]!;
      case 'line':
        return 0;
      default:
        return place satisfies never;
    }
  }
}
