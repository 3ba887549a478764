/**
 * What an instruction does to the flow of a program and to registers, read off its ticks: where it may go on, what it
 * calls, reads and writes. Values are trees over the instruction's own digits, so that each instance only puts its
 * digits in.
 */
import { addressesOf, flatTargets, partsOf, type Action, type Expr, type Target } from '../../notation/tree';
import { digitsAt, power } from '../../text/number';
import type { Form, Machine } from './machine';
import { programSpaceOf } from './machine';
import { foldConstant } from './foldConstant';
import { itemAt } from '../../text/itemAt';
import { perForm } from './perMachine';

export interface Store {
  readonly space: number;
  readonly address: Expr;
}

/** A register, or an element of an array by a number that the instruction has. */
export type RegisterUse =
  | { readonly register: number }
  | { readonly first: number; readonly scale: number; readonly index: Expr }
  /** One of several lists of registers, by number. */
  | { readonly lists: readonly (readonly number[])[]; readonly index: Expr };

export interface Effects {
  /** Once it is carried out, the instruction after it in memory may be next, whatever the choices say. */
  readonly falls: boolean;
  /** Where one of these holds (or, of the others, does not), it jumps for sure. */
  readonly choices: readonly { readonly condition: Expr; readonly held: boolean }[];
  /** Where it does not hold, the instruction is passed over. */
  readonly guard: Expr | undefined;
  /** Values that may be assigned to the program counter. */
  readonly jumps: readonly Expr[];
  readonly calls: boolean;
  readonly returns: boolean;
  readonly halts: boolean;
  /** Numbers of built-in services, and of traps through memory. */
  readonly services: readonly Expr[];
  readonly enters: readonly Expr[];
  readonly reads: readonly RegisterUse[];
  readonly writes: readonly RegisterUse[];
  /** Values written whole to registers, where they can be told. */
  readonly puts: readonly { readonly use: RegisterUse; readonly value: Expr }[];
  readonly stores: readonly Store[];
  /** Operand fields that say where in a memory something is, and those that become the program counter. */
  readonly addressFields: ReadonlySet<string>;
  readonly targetFields: ReadonlySet<string>;
  /** Operand fields that are the number of a service or trap. */
  readonly requestFields: ReadonlySet<string>;
}

/** Whether an instruction can go on or jump. */
export function canBranch(machine: Machine, form: Form): boolean {
  const { falls, jumps } = effectsOf(machine, form);
  return falls && jumps.length > 0;
}

const known = perForm<Effects>();

/** What the ticks of a form can do, whatever its operands; found once for each form. */
export function effectsOf(machine: Machine, form: Form): Effects {
  return (known(machine)[form.index] ??= new EffectsReader(machine, form).read());
}

class EffectsReader {
  private readonly env = new Map<number, Expr>();
  private readonly written = new Set<number>();
  private readonly choices: { condition: Expr; held: boolean }[] = [];
  private readonly jumps: Expr[] = [];
  private readonly services: Expr[] = [];
  private readonly enters: Expr[] = [];
  private readonly reads: RegisterUse[] = [];
  private readonly writes: RegisterUse[] = [];
  private readonly puts: { use: RegisterUse; value: Expr }[] = [];
  private readonly stores: Store[] = [];
  private readonly addressFields = new Set<string>();
  private readonly targetFields = new Set<string>();
  private calls = false;
  private returns = false;
  private halts = false;
  /** Where the trap's routine is, the machine looks up. */
  private entering = false;
  private sureJump = false;
  private sureHalt = false;
  private readonly instruction: ReadonlySet<number>;

  constructor(
    private readonly machine: Machine,
    private readonly form: Form,
  ) {
    this.instruction = new Set(machine.slots.map((each) => each.register));
    const late = form.schedule.some((each) => each.part === 'finish');
    const width = itemAt(machine.registers, machine.programCounter).width;
    this.env.set(machine.programCounter, { kind: 'latch', latch: late ? 'here' : 'next', width });
  }

  read(): Effects {
    if (this.form.guard) this.noteReads(this.form.guard.condition);
    for (const { part, tick, cause } of this.form.schedule) {
      if (part === 'enter' && cause && !this.entering) {
        this.noteReads(cause);
        this.enters.push(this.inlined(cause));
      }
      this.entering = part === 'enter';
      if (part === 'execute' || part === 'enter') this.tick(tick.actions);
    }
    const { jumps, services, enters, reads, stores, calls, returns, halts, addressFields, targetFields } = this;
    // All that a guarded instruction does, it may leave.
    const guarded = this.form.guard !== undefined;
    const falls = !this.sureJump && !this.sureHalt;
    const [writes, puts] = guarded ? [[], []] : [this.writes, this.puts];
    const requestFields = new Set<string>();
    for (const each of [...services, ...enters]) this.fieldsIn(each, requestFields);
    // That a table is looked into with the number of a trap makes it no address.
    for (const each of requestFields) addressFields.delete(each);
    return {
      requestFields,
      falls,
      choices: this.choices,
      guard: this.form.guard && this.inlined(this.form.guard.condition),
      jumps,
      services,
      enters,
      reads,
      writes,
      puts,
      stores,
      calls,
      returns,
      halts,
      addressFields,
      targetFields,
    };
  }

  /** Everything is read before anything is written. */
  private tick(actions: readonly Action[]): void {
    const changes: (readonly [number, Expr | undefined])[] = [];
    for (const each of actions) this.action(each, false, changes);
    for (const [register, value] of changes) {
      this.written.add(register);
      if (value) this.env.set(register, value);
      else this.env.delete(register);
    }
  }

  private action(action: Action, maybe: boolean, changes: (readonly [number, Expr | undefined])[]): void {
    switch (action.kind) {
      case 'transfer': {
        const value = this.inlined(action.value);
        this.noteReads(action.value);
        for (const target of flatTargets(action.target)) {
          addressesOf(target).forEach((each) => this.noteReads(each));
          this.write(target, value, { maybe, joined: action.target.kind === 'joined' }, changes);
        }
        return;
      }
      case 'compare': {
        const { a, b, carry } = action.flagged.operation;
        for (const each of [a, b, carry]) if (each) this.noteReads(each);
        return;
      }
      case 'if':
        this.noteReads(action.condition);
        for (const each of [...action.then, ...action.otherwise]) this.action(each, true, changes);
        if (!maybe && this.bothJump(action.then) && this.bothJump(action.otherwise)) this.sureJump = true;
        else if (!maybe)
          for (const held of [true, false])
            if (this.bothJump(held ? action.then : action.otherwise))
              this.choices.push({ condition: this.inlined(action.condition), held });
        return;
      case 'halt':
        this.halts = true;
        if (!maybe) this.sureHalt = true;
        return;
      case 'service':
        this.noteReads(action.number);
        this.services.push(this.inlined(action.number));
        return;
      case 'mark':
        if (action.mark === 'call') this.calls = true;
        else if (action.mark === 'return') this.returns = true;
        return;
      case 'wait':
      case 'stack':
        return;
      default:
        action satisfies never;
    }
  }

  private bothJump(actions: readonly Action[]): boolean {
    return actions.some(
      (each) =>
        each.kind === 'transfer' &&
        flatTargets(each.target).some((target) => target.kind === 'register' && target.register === this.machine.programCounter),
    );
  }

  private write(
    target: Target,
    value: Expr,
    { maybe, joined }: { maybe: boolean; joined: boolean },
    changes: (readonly [number, Expr | undefined])[],
  ): void {
    if (target.kind === 'cell') {
      const address = this.inlined(target.address);
      this.fieldsIn(address, this.addressFields);
      if (!target.bank) this.stores.push({ space: target.space, address });
      return;
    }
    if (target.kind === 'element') {
      const use = { first: target.first + target.offset, scale: target.scale, index: this.inlined(target.index) };
      // A write that may not happen neither loses nor replaces what was there.
      if (!maybe) {
        this.writes.push(use);
        this.puts.push({ use, value });
      }
      return;
    }
    if (target.kind === 'choose' && !maybe)
      this.writes.push({ index: this.inlined(target.index), lists: target.options.map((each) => (each ? registersOf(each) : [])) });
    if (target.kind !== 'register') return;
    if (target.register === this.machine.programCounter) {
      if (this.entering) return;
      this.jumps.push(value);
      this.fieldsIn(value, this.targetFields);
      if (!maybe) this.sureJump = true;
      return;
    }
    if (this.instruction.has(target.register)) return;
    if (itemAt(this.machine.registers, target.register).role === 'memory address') this.fieldsIn(value, this.addressFields);
    const use = { register: target.register };
    if (!maybe) this.writes.push(use);
    if (!maybe && target.whole && !joined) this.puts.push({ use, value });
    changes.push([target.register, maybe || joined || !target.whole ? undefined : value]);
  }

  /** Registers that hold something from before the instruction, where it is read. */
  private noteReads(expr: Expr): void {
    if (expr.kind === 'register' || expr.kind === 'slice') {
      const { register } = expr;
      if (register !== this.machine.programCounter && !this.instruction.has(register) && !this.written.has(register))
        this.reads.push({ register });
    }
    if (expr.kind === 'element') this.reads.push({ first: expr.first + expr.offset, scale: expr.scale, index: this.inlined(expr.index) });
    if (expr.kind === 'cell') this.fieldsIn(this.inlined(expr.address), this.addressFields);
    // Which of a list is read, one instruction tells; it reads no more than that.
    if (expr.kind === 'choose') {
      this.reads.push({ index: this.inlined(expr.index), lists: expr.options.map((each) => (each ? registersOf(each) : [])) });
      return this.noteReads(expr.index);
    }
    partsOf(expr).forEach((each) => this.noteReads(each));
  }

  private fieldsIn(expr: Expr, fields: Set<string>): void {
    // What is brought from a cell is no longer the field.
    if (expr.kind === 'cell') return;
    if (expr.kind === 'field' || (expr.kind === 'slice' && expr.field && expr.name !== undefined)) fields.add(expr.name!);
    partsOf(expr).forEach((each) => this.fieldsIn(each, fields));
  }

  /** The value with registers that the instruction itself has written replaced by what it wrote. */
  private inlined(expr: Expr): Expr {
    switch (expr.kind) {
      case 'register':
        return this.env.get(expr.register) ?? expr;
      case 'slice': {
        const value = this.instruction.has(expr.register) ? undefined : this.env.get(expr.register);
        return value ? { kind: 'digits', operand: value, high: expr.high, low: expr.low, width: expr.width } : expr;
      }
      case 'digits':
      case 'unary':
      case 'resize':
      case 'field':
        return { ...expr, operand: this.inlined(expr.operand) };
      case 'binary':
        return { ...expr, left: this.inlined(expr.left), right: this.inlined(expr.right) };
      case 'join':
        return { ...expr, parts: expr.parts.map((each) => this.inlined(each)) };
      case 'element':
      case 'choose':
        return { ...expr, index: this.inlined(expr.index) };
      case 'holds':
        return { ...expr, operand: this.inlined(expr.operand) };
      case 'cell':
        return { ...expr, address: this.inlined(expr.address) };
      default:
        return expr;
    }
  }
}

/** One instruction in memory: its cells and where they are. */
export interface Instance {
  readonly cells: readonly number[];
  readonly at: number;
}

/** The value of a tree for one instruction; undefined where it depends on what registers or memory hold. */
export function valueFor(machine: Machine, { cells, at }: Instance, expr: Expr): number | undefined {
  const leaf = (each: Expr): number | undefined => {
    if (each.kind === 'latch') {
      if (each.latch === 'here') return at;
      if (each.latch === 'length') return cells.length;
      return each.latch === 'next' ? (at + cells.length) % programSpaceOf(machine).cells : undefined;
    }
    if (each.kind === 'slice') return sliceFrom(machine, cells, each.register, each.high, each.low);
    return each.kind === 'register' ? sliceFrom(machine, cells, each.register, each.width - 1, 0) : undefined;
  };
  return foldConstant(expr, leaf, machine.radix);
}

/** Whether the instruction after it in memory may be next, for one instruction: a condition that always holds settles it. */
export function fallsFor(machine: Machine, instance: Instance, { falls, choices, guard }: Effects): boolean {
  if (guard && !valueFor(machine, instance, guard)) return true;
  return (
    falls &&
    !choices.some(({ condition, held }) => {
      const value = valueFor(machine, instance, condition);
      return value !== undefined && (value !== 0) === held;
    })
  );
}

/** Digits of an instruction register, put together from the cells that lie in it. */
function sliceFrom(machine: Machine, cells: readonly number[], register: number, high: number, low: number): number | undefined {
  let value = 0;
  let from = low;
  for (let at = cells.length - 1; at >= 0; at--) {
    const slot = machine.slots[at];
    if (slot?.register !== register || slot.low > high || slot.high < from) continue;
    const width = Math.min(high, slot.high) - from + 1;
    value += digitsAt(cells[at]!, from - slot.low, width, machine.radix) * power(machine.radix, from - low);
    from += width;
  }
  return from > high ? value : undefined;
}

/** The register that a use means in one instruction; undefined where that is not known, or several are meant. */
export function registerFor(machine: Machine, instance: Instance, use: RegisterUse): number | undefined {
  const [register, more] = registersFor(machine, instance, use);
  return more === undefined ? register : undefined;
}

/** The registers that a use means in one instruction; none where that is not known. */
export function registersFor(machine: Machine, instance: Instance, use: RegisterUse): readonly number[] {
  if ('register' in use) return [use.register];
  const index = valueFor(machine, instance, use.index);
  if (index === undefined) return [];
  return 'lists' in use ? (use.lists[index] ?? []) : [use.first + use.scale * index];
}

/** The registers that a value or a place is made of. */
const registersOf = (of: Expr | Target): number[] => {
  if (of.kind === 'register') return [of.register];
  return of.kind === 'join' || of.kind === 'joined' ? of.parts.flatMap(registersOf) : [];
};
