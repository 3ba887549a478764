/** Writes WebAssembly 1.0 in its binary format: one function over an imported memory. Knows no machines. */

export type Type = 'i32' | 'i64' | 'f64';

const TYPE: Readonly<Record<Type, number>> = { i32: 0x7f, i64: 0x7e, f64: 0x7c };

/** Opcodes of instructions without operands. */
const PLAIN = {
  ...{ drop: 0x1a, select: 0x1b, unreachable: 0x00 },
  ...{ 'i32.eqz': 0x45, 'i32.eq': 0x46, 'i32.ne': 0x47, 'i32.lt_s': 0x48, 'i32.lt_u': 0x49, 'i32.gt_s': 0x4a, 'i32.gt_u': 0x4b },
  ...{ 'i32.le_s': 0x4c, 'i32.le_u': 0x4d, 'i32.ge_s': 0x4e, 'i32.ge_u': 0x4f },
  ...{ 'i64.eqz': 0x50, 'i64.eq': 0x51, 'i64.ne': 0x52, 'i64.lt_s': 0x53, 'i64.lt_u': 0x54, 'i64.gt_s': 0x55, 'i64.gt_u': 0x56 },
  ...{ 'i64.le_s': 0x57, 'i64.le_u': 0x58, 'i64.ge_s': 0x59, 'i64.ge_u': 0x5a },
  ...{ 'i32.popcnt': 0x69, 'i32.add': 0x6a, 'i32.sub': 0x6b, 'i32.mul': 0x6c, 'i32.div_u': 0x6e, 'i32.rem_u': 0x70 },
  ...{ 'i32.and': 0x71, 'i32.or': 0x72, 'i32.xor': 0x73, 'i32.shl': 0x74, 'i32.shr_s': 0x75, 'i32.shr_u': 0x76 },
  ...{ 'i64.popcnt': 0x7b, 'i64.add': 0x7c, 'i64.sub': 0x7d, 'i64.mul': 0x7e, 'i64.div_u': 0x80, 'i64.rem_s': 0x81, 'i64.rem_u': 0x82 },
  ...{ 'i64.and': 0x83, 'i64.or': 0x84, 'i64.xor': 0x85, 'i64.shl': 0x86, 'i64.shr_s': 0x87, 'i64.shr_u': 0x88 },
  ...{ 'f64.add': 0xa0, 'i32.wrap_i64': 0xa7, 'i64.extend_i32_s': 0xac, 'i64.extend_i32_u': 0xad, 'f64.convert_i32_u': 0xb8 },
} as const;
export type PlainOp = keyof typeof PLAIN;

export type MemoryOp = 'i32.load' | 'i32.load8_u' | 'i32.load16_u' | 'i32.store' | 'f64.store' | 'i32.store8';

/** Opcode and alignment, as a power of two. */
const MEMORY: Readonly<Record<MemoryOp, readonly [opcode: number, align: number]>> = {
  'i32.load': [0x28, 2],
  'i32.load8_u': [0x2d, 0],
  'i32.load16_u': [0x2f, 1],
  'i32.store': [0x36, 2],
  'f64.store': [0x39, 3],
  'i32.store8': [0x3a, 0],
};

const EMPTY_BLOCK = 0x40;

function unsigned(out: number[], value: number): void {
  let rest = value;
  do {
    const low = rest % 128;
    rest = Math.floor(rest / 128);
    out.push(rest > 0 ? low + 128 : low);
  } while (rest > 0);
}

function signed(out: number[], value: bigint): void {
  let rest = value;
  for (;;) {
    const low = Number(rest & 0x7fn);
    rest >>= 7n;
    if ((rest === 0n && low < 64) || (rest === -1n && low >= 64)) {
      out.push(low);
      return;
    }
    out.push(low + 128);
  }
}

/** A place that can be branched to. */
export interface Label {
  readonly depth: number;
}

/** The body of the function, written front to back. */
export class Code {
  private readonly bytes: number[] = [];
  private readonly locals: Type[] = [];
  private readonly free: Record<Type, number[]> = { i32: [], i64: [], f64: [] };
  private depth = 0;

  constructor(readonly parameters: readonly Type[]) {}

  get length(): number {
    return this.bytes.length;
  }

  /** Forgets what was written from here on; blocks opened since then have to be closed. */
  cutTo(length: number, depth: number): void {
    this.bytes.length = length;
    this.depth = depth;
  }

  get open(): number {
    return this.depth;
  }

  /** A new local variable, 0 at the start. */
  local(type: Type): number {
    this.locals.push(type);
    return this.parameters.length + this.locals.length - 1;
  }

  /** A local for a while: `release` gives it back. */
  borrow(type: Type): number {
    return this.free[type].pop() ?? this.local(type);
  }

  release(type: Type, local: number): void {
    this.free[type].push(local);
  }

  op(...names: PlainOp[]): this {
    for (const each of names) this.bytes.push(PLAIN[each]);
    return this;
  }

  i32(value: number): this {
    this.bytes.push(0x41);
    signed(this.bytes, BigInt(value | 0));
    return this;
  }

  i64(value: bigint): this {
    this.bytes.push(0x42);
    signed(this.bytes, BigInt.asIntN(64, value));
    return this;
  }

  get(local: number): this {
    this.bytes.push(0x20);
    unsigned(this.bytes, local);
    return this;
  }

  set(local: number): this {
    this.bytes.push(0x21);
    unsigned(this.bytes, local);
    return this;
  }

  tee(local: number): this {
    this.bytes.push(0x22);
    unsigned(this.bytes, local);
    return this;
  }

  /** At the address on the stack plus `offset` bytes. */
  memory(name: MemoryOp, offset: number): this {
    const [opcode, align] = MEMORY[name];
    this.bytes.push(opcode, align);
    unsigned(this.bytes, offset);
    return this;
  }

  private begin(opcode: 0x02 | 0x03 | 0x04): Label {
    this.bytes.push(opcode, EMPTY_BLOCK);
    return { depth: ++this.depth };
  }

  /** A branch to it goes behind its end. */
  block(): Label {
    return this.begin(0x02);
  }

  /** A branch to it goes back to its beginning. */
  loop(): Label {
    return this.begin(0x03);
  }

  if(): Label {
    return this.begin(0x04);
  }

  else(): this {
    this.bytes.push(0x05);
    return this;
  }

  end(): this {
    this.depth--;
    this.bytes.push(0x0b);
    return this;
  }

  branch(to: Label): this {
    this.bytes.push(0x0c);
    unsigned(this.bytes, this.depth - to.depth);
    return this;
  }

  branchIf(to: Label): this {
    this.bytes.push(0x0d);
    unsigned(this.bytes, this.depth - to.depth);
    return this;
  }

  /** To the label of the number on the stack; to the last one for any greater number. */
  branchTable(to: readonly Label[]): this {
    this.bytes.push(0x0e);
    unsigned(this.bytes, to.length - 1);
    for (const each of to) unsigned(this.bytes, this.depth - each.depth);
    return this;
  }

  /** The module: it imports `env.memory` and exports the function as `run`, which gives an i32. */
  module(): Uint8Array {
    const out: number[] = [0x00, 0x61, 0x73, 0x6d, 0x01, 0x00, 0x00, 0x00];
    const section = (id: number, content: readonly number[]): void => {
      out.push(id);
      unsigned(out, content.length);
      for (const each of content) out.push(each);
    };
    const name = (text: string): number[] => [text.length, ...Array.from(text, (each) => each.charCodeAt(0))];
    section(1, [1, 0x60, this.parameters.length, ...this.parameters.map((each) => TYPE[each]), 1, TYPE.i32]);
    section(2, [1, ...name('env'), ...name('memory'), 0x02, 0x00, 1]);
    section(3, [1, 0]);
    section(7, [1, ...name('run'), 0x00, 0]);
    const body: number[] = [];
    unsigned(body, this.locals.length);
    for (const each of this.locals) body.push(1, TYPE[each]);
    for (const each of this.bytes) body.push(each);
    body.push(0x0b);
    const code: number[] = [1];
    unsigned(code, body.length);
    for (const each of body) code.push(each);
    section(10, code);
    return Uint8Array.from(out);
  }
}
