import { demoMachines } from '../testing/demo';
import { beginningOf } from '../machine/document/beginning';
import { applyChanges } from '../machine/document/edits';
import type { DocumentAct } from './definition';
import type { Look } from './protocol';
import { Session } from './session';

const scheduler = { now: () => performance.now(), later: (_: number, act: () => void) => (queueMicrotask(act), () => undefined) };
const session = (): Session => new Session(scheduler);
const ruff = beginningOf({ name: 'Ruff', word: 'bits', width: 8, memory: 'one', store: 'accumulator', counter: 'fetch' });

const acted = ({ definition }: Session, text: string, act: DocumentAct): string => {
  const made = definition.edit(text, act);
  if ('refused' in made) throw new Error(made.refused);
  return applyChanges(text, made.changes);
};

test('a look says what is wrong and in which part, to the very sign of a tick', () => {
  const { definition } = session();
  const text = ruff.document.replace('ACC <- ACC - value', 'ACC <- ACX - value');
  const { machine, problems, outline, document } = definition.look(text);
  expect(machine).toBeUndefined();
  expect(problems).toMatchObject([{ path: ['instructions', 'TAKE', 'forms', 0, 'execute'], inside: 7 }]);
  expect(outline!.map((each) => each.name)).toContain('instructions');
  expect(document).toMatchObject({ machine: 'Ruff' });
  expect(definition.look('machine: [').outline).toBeUndefined();
});

test('an instruction is tried with each look, also of the last sound machine; its cases are found in the meantime', async () => {
  const { definition } = session();
  const tried = ({ tried: [first] = [] }: Look) => first;
  const sound = tried(definition.look(ruff.document, { mnemonic: 'TAKE', given: [{ operands: { value: 3 }, places: { ACC: 3 } }] }));
  expect(sound?.places.find((each) => each.key === 'flag Z')).toMatchObject({ after: 1 });
  const broken = definition.look(ruff.document.replace('rule: zero', 'rule: zerro'), { mnemonic: 'TAKE', given: [] });
  expect(broken.machine).toBeUndefined();
  expect(tried(broken)?.line).toBe('TAKE 5');
  const [older, newer] = await Promise.all([definition.cases('TAKE', 0), definition.cases('PUT', 0)]);
  expect(older).toBe('given up');
  expect(newer).toMatchObject({ flags: ['Z', 'N'], never: [], exhaustive: true });
  expect(await definition.cases('NOWHERE', 0)).toBeUndefined();
});

test('a form is drawn as it stands after each tick', () => {
  const { definition } = session();
  definition.look(ruff.document);
  const given = { operands: { value: 3 }, places: { ACC: 5 } };
  const { ticks, view } = definition.drawing('TAKE', 0, given, 0)!;
  const machine = definition.look(ruff.document).machine!;
  const acc = machine.registers.findIndex((each) => each.name === 'ACC');
  expect(view.registers[acc]).toBe(5);
  expect(definition.drawing('TAKE', 0, given, ticks)!.view.registers[acc]).toBe(2);
  expect(ticks).toBe(machine.forms.find((each) => each.mnemonic === 'TAKE')!.schedule.length);
  expect(definition.drawing('NOWHERE', 0, given, 0)).toBeUndefined();
});

test('what is inherited is shown, and an edit of it is written into the machine itself', () => {
  const own = session();
  own.texts.setBases({ ruff: ruff.document });
  const text = 'machine: Reeve\nbased on: Ruff\n';
  const before = own.definition.look(text);
  expect(before.machine!.forms).toHaveLength(6);
  expect(before.outline!.flatMap((each) => each.parts).every((each) => each.place === undefined)).toBe(true);
  const changed = acted(own, text, { kind: 'set', path: ['registers', 'ACC', 'title'], value: 'the sum' });
  expect(changed).toBe('machine: Reeve\nbased on: Ruff\nregisters: {ACC: {title: the sum}}\n');
  expect(own.definition.look(changed).machine!.registers.find((each) => each.name === 'ACC')?.title).toBe('the sum');
  const fewer = acted(own, changed, { kind: 'remove', path: ['instructions', 'SHOW'] });
  expect(own.definition.look(fewer).machine!.forms.map((each) => each.mnemonic)).not.toContain('SHOW');
  const more = acted(own, fewer, { kind: 'duplicate', path: ['instructions', 'PUT'] });
  expect(
    own.definition
      .look(more)
      .outline!.find((each) => each.name === 'instructions')!
      .parts.map((each) => each.name),
  ).toContain('PUT2');
  expect(own.definition.edit(text, { kind: 'move', path: ['instructions', 'PUT'], to: 3 })).toMatchObject({
    refused: expect.stringMatching(/keeps its place/),
  });
});

test('a part whose parents are missing brings them along', () => {
  const text = acted(session(), ruff.document, { kind: 'insert', path: ['devices', 'lamps'], value: { kind: 'lamps', data: 'M[0xF0]' } });
  expect(text).toContain('\ndevices: {lamps: {kind: lamps');
  expect(acted(session(), 'machine: Ruff\n', { kind: 'set', path: ['word', 'bits'], value: '8' })).toBe('machine: Ruff\nword: {bits: 8}\n');
});

test('programs follow names that were changed one after the other, from the first to the last', () => {
  const { definition } = session();
  definition.look(ruff.document);
  const once = definition.renamePart(ruff.document, ['instructions', 'PUT'], 'SET');
  if ('refused' in once) throw new Error(once.refused);
  const twice = definition.renamePart(applyChanges(ruff.document, once.changes), ['instructions', 'SET'], 'GIVE');
  if ('refused' in twice) throw new Error(twice.refused);
  expect(definition.follow({ text: ruff.document }, [once.programs, twice.programs], [ruff.program])).toEqual([
    ruff.program.replace('PUT ', 'GIVE '),
  ]);
  expect(definition.renamePart(ruff.document, ['registers', 'ACC'], 'PC')).toMatchObject({ refused: expect.stringMatching(/PC/) });
});

test('what a version means is told of sound documents only', () => {
  const { definition } = session();
  const changed = ruff.document.replace("SHOW'\n        code: alone opcode=5", "SHOW'\n        code: alone opcode=9");
  expect(changed).not.toBe(ruff.document);
  const found = definition.consequences({ text: ruff.document }, changed, [{ source: ruff.program }]);
  expect(found).toMatchObject({ changes: ['SHOW begins with 0x09 instead of 0x05.'], programs: [{ kind: 'cells' }] });
  expect(definition.consequences({ text: ruff.document }, 'machine: [', [])).toHaveProperty('refused');
  expect(definition.consequences({ text: 'machine: [' }, changed, [])).toHaveProperty('refused');
  expect(definition.coverage('machine: [', [])).toBeUndefined();
  expect(definition.assembles(changed, [{ source: ruff.program }, { source: ' NOTHING' }])).toEqual([true, false]);
});

test.each(demoMachines.map((each) => [each.name, each.text] as const))(
  '%s: the course’s footprints and system program are told',
  (name, text) => {
    const own = session();
    own.definition.look(text);
    const { programs, parts } = demoMachines.find((each) => each.name === name)!;
    const all = Object.fromEntries(parts.map((each) => [each.name, each.text]));
    const found = own.definition.footprints(
      { text },
      programs.map((each) => ({ source: each.text, parts: all })),
    );
    expect(found.every((each) => each.cells > 0 && each.problem === undefined)).toBe(true);
    expect(own.definition.systemRows().length > 0).toBe(/^system:/m.test(text));
  },
);

test('a condition gets another name, and the system program that spells it into its operations follows', () => {
  const { definition } = session();
  const gannet = demoMachines.find((each) => each.name === 'Gannet')!.text;
  const before = definition.look(gannet).machine!;
  for (const { names } of before.conditions.filter((each) => each.names[0] !== '')) {
    const made = definition.renamePart(gannet, ['conditions', names[0]!], 'QQ');
    if ('refused' in made) throw new Error(made.refused);
    const text = applyChanges(gannet, made.changes);
    const { machine, problems } = definition.look(text);
    expect(problems.filter((each) => each.grade === 'error')).toEqual([]);
    const spelled = new RegExp(`JUMP\\.?${names[0]}\\b`);
    if (spelled.test(before.system!.source)) expect(machine!.system!.source).toMatch(/JUMP\.?QQ\b/);
    expect(machine!.system!.source).not.toMatch(spelled);
    expect(made.programs.operations.length).toBeGreaterThan(0);
  }
});
