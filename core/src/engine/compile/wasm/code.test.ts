import fc from 'fast-check';
import { Code, type PlainOp } from './code';
import { wasmHost } from './host';

const numRuns = Number(process.env.ZETTAK_RUNS ?? 60);

/** Makes the module and gives its function, with a memory of one page. */
function made(code: Code): { run: (...values: number[]) => number; bytes: Uint8Array } {
  const { Module, Instance, Memory } = wasmHost()!;
  const memory = new Memory({ initial: 1 });
  const { exports } = new Instance(new Module(code.module()), { env: { memory } });
  return { run: exports['run']!, bytes: new Uint8Array(memory.buffer) };
}

const result = (write: (code: Code) => void): number => {
  const code = new Code([]);
  write(code);
  return made(code).run();
};

test('every i32 constant comes back as it was written', () => {
  fc.assert(
    fc.property(fc.integer(), (value) => {
      expect(result((code) => code.i32(value))).toBe(value);
    }),
    { numRuns },
  );
  for (const value of [0, -1, 63, 64, -64, -65, 127, 128, 2 ** 31 - 1, -(2 ** 31)]) expect(result((code) => code.i32(value))).toBe(value);
});

test('every i64 constant comes back in halves', () => {
  fc.assert(
    fc.property(fc.bigInt({ min: -(1n << 63n), max: (1n << 64n) - 1n }), (value) => {
      const low = result((code) => void code.i64(value).op('i32.wrap_i64'));
      const high = result((code) => void code.i64(value).i64(32n).op('i64.shr_u', 'i32.wrap_i64'));
      expect((BigInt(high >>> 0) << 32n) | BigInt(low >>> 0)).toBe(BigInt.asUintN(64, value));
    }),
    { numRuns },
  );
});

test.each<[PlainOp, (a: number, b: number) => number]>([
  ['i32.add', (a, b) => (a + b) | 0],
  ['i32.sub', (a, b) => (a - b) | 0],
  ['i32.mul', Math.imul],
  ['i32.and', (a, b) => a & b],
  ['i32.or', (a, b) => a | b],
  ['i32.xor', (a, b) => a ^ b],
  ['i32.shl', (a, b) => a << (b & 31)],
  ['i32.shr_u', (a, b) => (a >>> (b & 31)) | 0],
  ['i32.shr_s', (a, b) => a >> (b & 31)],
  ['i32.lt_u', (a, b) => Number(a >>> 0 < b >>> 0)],
  ['i32.lt_s', (a, b) => Number(a < b)],
  ['i32.ge_u', (a, b) => Number(a >>> 0 >= b >>> 0)],
  ['i32.gt_s', (a, b) => Number(a > b)],
  ['i32.le_u', (a, b) => Number(a >>> 0 <= b >>> 0)],
  ['i32.eq', (a, b) => Number(a === b)],
  ['i32.ne', (a, b) => Number(a !== b)],
])('%s does what its name says', (name, expected) => {
  fc.assert(
    fc.property(fc.integer(), fc.integer(), (a, b) => {
      expect(result((code) => void code.i32(a).i32(b).op(name))).toBe(expected(a, b));
    }),
    { numRuns: 20 },
  );
});

test('a loop with a branch out of a block counts as it should; parameters are locals', () => {
  const code = new Code(['i32']);
  const [sum, at] = [code.local('i32'), code.local('i32')];
  const out = code.block();
  const again = code.loop();
  code.get(at).get(0).op('i32.ge_u').branchIf(out);
  code.get(at).i32(1).op('i32.add').tee(at).get(sum).op('i32.add').set(sum);
  code.branch(again);
  code.end();
  code.end();
  code.get(sum);
  const { run } = made(code);
  expect([0, 1, 10, 1000].map((each) => run(each))).toEqual([0, 1, 55, 500_500]);
});

test('a branch table goes to the label of its number, and to the last one beyond', () => {
  const code = new Code(['i32']);
  const found = code.local('i32');
  const out = code.block();
  const labels = Array.from({ length: 5 }, () => code.block()).reverse();
  const last = labels.pop()!;
  code.get(0).branchTable([...labels, last]);
  for (let at = 0; at < 5; at++) {
    code.end();
    code
      .i32(100 + at)
      .set(found)
      .branch(out);
  }
  code.end();
  code.get(found);
  const { run } = made(code);
  expect([0, 1, 2, 3, 4, 5, 99, -1].map((each) => run(each))).toEqual([100, 101, 102, 103, 104, 104, 104, 104]);
});

test('memory is read and written at offsets of any size', () => {
  for (const offset of [0, 1, 127, 128, 16_383, 16_384, 60_000]) {
    const code = new Code(['i32', 'i32']);
    code.get(0).get(1).memory('i32.store', offset);
    code.get(0).memory('i32.load8_u', offset + 1);
    const { run, bytes } = made(code);
    expect(run(4, 0x12345678)).toBe(0x56);
    expect([...bytes.subarray(offset + 4, offset + 8)]).toEqual([0x78, 0x56, 0x34, 0x12]);
  }
});

test('what is cut off again leaves no trace, not even open blocks', () => {
  const code = new Code([]);
  code.i32(7);
  const [length, open] = [code.length, code.open];
  code.block();
  code.i32(1).op('drop');
  code.cutTo(length, open);
  expect(made(code).run()).toBe(7);
});

test('a local that is given back is borrowed again, and by its own type only', () => {
  const code = new Code(['i32']);
  const first = code.borrow('i32');
  code.release('i32', first);
  expect([code.borrow('i64') === first, code.borrow('i32') === first]).toEqual([false, true]);
});
