import { guardedMachine } from '@zettak/core/testing/generated';
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { readFileSync } from 'node:fs';
import { check, type CheckOptions } from './check';
import { replay } from './replay';
import { run, type RunOptions } from './run';
import { schema } from './schema';
import { assembleCommand } from './assemble';
import { disassembleCommand } from './disassemble';
import type { Terminal } from './terminal';
import { trial, type TrialOptions } from './trial';
import { smallMachine } from '@zettak/core/testing/small';

const demo = join(__dirname, '../../demo');
const curlew = readFileSync(join(demo, 'machines/curlew.yaml'), 'utf8');
const program = (name: string): string => readFileSync(join(demo, `programs/${name}.asm`), 'utf8');

function terminal(files: Record<string, string>) {
  const out: string[] = [];
  const errors: string[] = [];
  const saved = new Map<string, Uint8Array>();
  const fake: Terminal = {
    read: (file) => files[file],
    readBytes: (file) => saved.get(file) ?? (files[file] === undefined ? undefined : new TextEncoder().encode(files[file])),
    save: (file, content) => {
      if (file.startsWith('/')) return false;
      saved.set(file, typeof content === 'string' ? new TextEncoder().encode(content) : content);
      return true;
    },
    write: (line) => void out.push(line),
    warn: (line) => void errors.push(line),
    wrongUse: (sentence) => {
      errors.push(sentence);
      return 2;
    },
  };
  return { fake, saved, text: () => out.join('\n'), errors: () => errors.join('\n') };
}

function checked(text: string, options: CheckOptions = {}) {
  const { fake, ...seen } = terminal({ 'm.yaml': text });
  return { code: check(fake, 'm.yaml', options), ...seen };
}

function ran(source: string, options: RunOptions = {}, machine = curlew) {
  const { fake, ...seen } = terminal({ 'm.yaml': machine, 'p.asm': source });
  return { code: run(fake, 'm.yaml', 'p.asm', options), ...seen };
}

test('check says what the machine amounts to, and ends with 0', () => {
  const { code, text } = checked(curlew);
  expect([code, text()]).toEqual([0, expect.stringMatching(/^Curlew: \d+ written forms, no errors\.$/)]);
});

test('check prints each problem with file, line, column and grade, and ends with 1', () => {
  const { code, text } = checked(curlew.replace('MDR <- ACC\n', 'MDR <- ACX\n'));
  expect(code).toBe(1);
  expect(text()).toMatch(/^m\.yaml:\d+:\d+: error: This machine has no “ACX”\. Did you mean ACC\?$/m);
});

test('check --json is JSON with places', () => {
  const { code, text } = checked('machine: Tern\nword: ]', { json: true });
  expect(code).toBe(1);
  expect(JSON.parse(text())).toMatchObject({ machine: null, problems: [{ code: 'not-yaml', grade: 'error', line: 2 }] });
});

test('check --card has a row for every form, with cells, ticks, flags and count', () => {
  const { text } = checked(curlew, { card: true });
  expect(text()).toContain(
    '| `ADD address` | 33, address | add a value to the accumulator | `MAR <- address`; `MDR <- M[MAR]`; `ACC <- ACC + MDR` | Z N C V H P | 8 |',
  );
  expect(text()).toContain('| `OR address` | 37, address |');
  expect(text()).toContain('| `JUMP{c} address`: `JUMPZ` `JUMPNZ`');
  const conditions = 8;
  expect(text()).toContain('| `Z`, `EQ` | 0 | Z = 1 | zero |');
  expect(text().match(/^\| `/gm)!.length).toBe(curlew.match(/- write:/g)!.length + conditions);
});

test('check --map shows each opcode in its place and how many are free', () => {
  const { text } = checked(curlew, { map: true });
  // One row for eight jumps.
  const forms = curlew.match(/- write:/g)!.length + 7;
  expect(text()).toContain(`Curlew: ${forms} of 256 first cells used, ${256 - forms} free.`);
  expect(
    text()
      .split('\n')
      .find((each) => each.startsWith('30')),
  ).toMatch(/^30 {2}\. +\. +ADD +ADD +SUB +CMP/);
});

test('a file that cannot be read is wrong use', () => {
  const { fake, errors } = terminal({});
  expect([check(fake, 'none.yaml', {}), run(fake, 'none.yaml', 'none.asm', {})]).toEqual([2, 2]);
  expect(errors()).toContain('none.yaml cannot be read.');
});

test('run prints output, ending, registers, flags and written cells', () => {
  const { code, text } = ran(program('mean-level'));
  expect(code).toBe(0);
  expect(text()).toMatch(
    /^161\nHalted after \d+ instructions, \d+ ticks\.\nRegisters \(hex\): PC .*ACC A1.*\nFlags: Z 0 .*\nCells of M written \(hex\): .*64=00 65=A1/,
  );
});

test('run --input feeds the traps that read, and --json tells the ending as data', () => {
  const { code, text } = ran(program('highest-water'), { input: '120, 0x9E 90 0', json: true });
  expect(code).toBe(0);
  expect(JSON.parse(text())).toMatchObject({
    stop: 'halted',
    output: expect.stringContaining('highest: 158'),
    registers: { ACC: 158 },
    cells: { M: { '96': 158 } },
  });
});

test('run --set presets cells by label or address', () => {
  expect(ran(program('over-the-sill'), { set: ['morning=100', '0x41=75'] }).text()).toMatch(/^25\n0\n128\n/);
});

test.each<[string, string, RunOptions, number, RegExp]>([
  ['a program with errors', 'LAOD #1', {}, 1, /p\.asm:1:1: error: This machine has no operation “LAOD”/],
  ['a run that waits for ever', 'TRAP askLevel\nHALT', {}, 3, /waits for a number/],
  ['a fault', 'LOAD #1', {}, 4, /program's text ended at 0x01, line 1/],
  ['an endless loop', 'x JUMP x', {}, 5, /Never halts: the whole state repeats every 1 instruction \(6 ticks\), at 0x00 \(line 1\)/],
  ['an endless loop without the proof', 'x JUMP x', { max: '600', proof: false }, 6, /Stopped after 600 ticks.*The whole state repeats/],
  ['a long way', 'x INC\nSTORE n\nJUMP x\nn .room 1', { max: '600' }, 6, /Stopped after 600 ticks.*It was last at work/],
  ['a condition that holds', 'x INC\nJUMP x', { until: 'ACC = 9' }, 0, /ACC = 9 holds; next is line 2/],
  ['a condition that means nothing', 'HALT', { until: 'ACX = 9' }, 2, /--until: This machine has no “ACX”/],
  ['a script that is not there', 'HALT', { script: 'none.txt' }, 2, /none\.txt cannot be read/],
  ['an input that is no number', 'HALT', { input: '1 x' }, 2, /“x” is no number/],
  ['a preset that is no cell', 'HALT', { set: ['300=1'] }, 2, /M has the cells 0 to 255/],
  ['a preset that does not fit', 'HALT', { set: ['1=256'] }, 2, /does not fit into 8 bits/],
  ['a budget that is no number', 'HALT', { max: '-1' }, 2, /no number of ticks/],
])('%s ends with its own exit code and a sentence', (_, source, options, code, words) => {
  const result = ran(source, options);
  expect(result.code).toBe(code);
  expect(`${result.text()}\n${result.errors()}`).toMatch(words);
});

const demoFile = (file: string): string => readFileSync(join(demo, file), 'utf8');

test('every demo machine can be tried from outside: spaces, banks, devices, ports and text as input', () => {
  const dunlin = ran(program('sill-lamps'), { set: ['switches=0b0101'], json: true }, demoFile('machines/dunlin.yaml'));
  expect([dunlin.code, JSON.parse(dunlin.text())]).toMatchObject([
    0,
    { stop: 'halted', ports: { 2: 12 }, devices: { switches: 5, lamps: 12 }, flags: { G: 1 } },
  ]);
  const banks = ran(program('decimal-levels'), { set: ['DATA[1, 0]=9'], json: true }, demoFile('machines/dunlin.yaml'));
  expect(JSON.parse(banks.text()).cells.DATA).toEqual({ 128: 7, 129: 3, 130: 2 });
  const text = ran(program('decimal-levels'), { set: ['rise=4'] }, demoFile('machines/dunlin.yaml'));
  expect(text.text()).toMatch(/Cells of DATA written \(hex\): 2:00=2 2:01=3 2:02=2/);
  const gannet = ran(program('harbour-log'), { input: 'ebb.' }, demoFile('machines/gannet.yaml'));
  expect([gannet.code, gannet.text().split('\n')[0]]).toEqual([0, 'log: ebb.']);
  const plover = ran(program('flood-sum'), { input: '120, 150 0' }, demoFile('machines/plover.yaml'));
  expect(plover.text()).toMatch(/^270\n.*\nRegisters: PC 007 {2}IR 9999/);
});

test.each([
  ['DATA[4, 0]=1', /DATA has the banks 0 to 3/],
  ['DATA[0, 64]=1', /DATA has the cells 0 to 63/],
  ['DATA[0, x]=1', /is no number and no label/],
  ['PORT[99]=1', /has the ports 0 to/],
  ['risee=1', /Did you mean rise\?/],
  ['DATA[0, 1]=16', /does not fit into 4 bits/],
  ['switches=16', /does not fit into 4 bits/],
  ['nowhere=1', /is no register, flag, label or device/],
])('--set %s is refused as wrong use', (set, words) => {
  const { code, errors } = ran(program('decimal-levels'), { set: [set] }, demoFile('machines/dunlin.yaml'));
  expect([code, errors()]).toEqual([2, expect.stringMatching(words)]);
});

test('a machine that is based on another finds it in the file beside it', () => {
  const files = {
    'course/late.yaml': 'machine: Late\nbased on: curlew.yaml\ninstructions:\n  PASS: removed\n',
    'course/curlew.yaml': curlew,
  };
  const { fake, text } = terminal(files);
  expect(check(fake, 'course/late.yaml', {})).toBe(0);
  expect(text()).toBe('Late: 46 written forms, no errors.');
  const alone = terminal({ 'late.yaml': files['course/late.yaml'] });
  expect(check(alone.fake, 'late.yaml', {})).toBe(1);
  expect(alone.text()).toMatch(/late\.yaml:2:\d+: error: No machine “curlew\.yaml” is known here/);
});

test('a note behind an error says where the cause may lie', () => {
  const { text } = checked(curlew.replace('  request:   opcode', '  reqest:    opcode'));
  expect(text()).toMatch(/error: There is no format “request”\. Did you mean reqest\?\nm\.yaml:\d+:\d+: note: reqest stands here\./);
});

test('what is misspelt where it is defined, and named again and again, is told there and once', () => {
  const { text } = checked(curlew.replace('  direct:    opcode', '  dirct:     opcode'));
  expect(text()).toMatch(
    /^m\.yaml:\d+:3: error: Nothing names “dirct”, but “direct” is named in 19 places and stands nowhere\. Did you mean direct\?$/m,
  );
  expect(text().match(/error:/g)).toHaveLength(1);
});

test('the schema of machine documents is JSON', () => {
  const { fake, text } = terminal({});
  expect(schema(fake)).toBe(0);
  expect(JSON.parse(text())).toMatchObject({ $schema: expect.stringContaining('2020-12'), type: 'object' });
});

const sources = {
  'curlew.yaml': curlew,
  'watch.asm': program('quay-watch'),
  'wrong.asm': 'start LAOD #5\nHALT',
  'uses.asm': '.include "half"\n.start main\nmain LOAD #8\n CALL half.again\n HALT',
  'half.asm': '.routine half\nagain SHR\n RET\n.end',
};

test('assemble says what a program amounts to, and what is wrong with file, line and column', () => {
  const well = terminal(sources);
  expect(assembleCommand(well.fake, 'curlew.yaml', 'watch.asm', {})).toBe(0);
  expect(well.text()).toMatch(/Starts at 0x00, last cell 0x41\.\n16 cells used, 240 free, 6 names\./);
  const wrong = terminal(sources);
  expect(assembleCommand(wrong.fake, 'curlew.yaml', 'wrong.asm', {})).toBe(1);
  expect(wrong.text()).toMatch(/^wrong.asm:1:7: error: This machine has no operation “LAOD”\. Did you mean LOAD\?/);
  expect(assembleCommand(terminal(sources).fake, 'curlew.yaml', 'none.asm', {})).toBe(2);
  const off = terminal(sources);
  expect(assembleCommand(off.fake, 'curlew.yaml', 'watch.asm', { off: ['nothing'] })).toBe(2);
  expect(off.errors()).toMatch(/There are: operation-as-label, bare-target/);
});

test('a listing has one line an instruction, or one a cell; the symbols have their uses', () => {
  const lines = terminal(sources);
  assembleCommand(lines.fake, 'curlew.yaml', 'watch.asm', { listing: true });
  expect(lines.text()).toMatch(/^00 +12 40 +6 {2}start {3}LOAD {2}level$/m);
  const cells = terminal(sources);
  assembleCommand(cells.fake, 'curlew.yaml', 'watch.asm', { cells: true });
  expect(cells.text()).toMatch(/^00 +12 +6 {2}start .*\n01 +40$/m);
  const names = terminal(sources);
  assembleCommand(names.fake, 'curlew.yaml', 'watch.asm', { symbols: true });
  expect(names.text()).toMatch(/^quay +. 192 +line 4 +used on 9, 10$/m);
});

test('a part beside the program is taken in, and its names are seen', () => {
  const { fake, text } = terminal(sources);
  expect(assembleCommand(fake, 'curlew.yaml', 'uses.asm', { listing: true, symbols: true })).toBe(0);
  expect(text()).toMatch(/\+2 {2}again SHR/);
  expect(text()).toMatch(/half\.again +00 +half line 2 +used on 4/);
});

test.each(['hex', 'bin', 'csv'] as const)('what is written as %s is disassembled to a program with the same cells', (format) => {
  const { fake, saved, text, errors } = terminal(sources);
  expect(assembleCommand(fake, 'curlew.yaml', 'watch.asm', { [format]: `watch.${format}` })).toBe(0);
  const before = text();
  expect(disassembleCommand(fake, 'curlew.yaml', `watch.${format}`, {})).toBe(0);
  const again = text().slice(before.length);
  expect(again).toMatch(/start_00 LOAD +cell_40/);
  const { fake: second, text: told } = terminal({ ...sources, 'again.asm': again });
  expect(assembleCommand(second, 'curlew.yaml', 'again.asm', { csv: 'again.csv', symbols: true })).toBe(0);
  expect(told()).toMatch(/cell_40/);
  expect(errors()).toBe('');
  expect(saved.size).toBe(1);
});

test('addresses on the command line are read in the machine’s base where they are not marked', () => {
  const octal = sources['curlew.yaml'].replace('  bits: 8\n', '  bits: 8\n  base: octal\n');
  const words = { ...sources, 'octal.yaml': octal, 'a.words': '12 40 0F' };
  const disassembled = (options: { start?: string; from?: string }): string => {
    const { fake, text, errors } = terminal(words);
    disassembleCommand(fake, 'octal.yaml', 'a.words', options);
    return text() + errors();
  };
  expect(disassembled({ from: '20', start: '20' })).toBe(disassembled({ from: '0d16', start: '0o20' }));
  expect(disassembled({ from: '20' })).toMatch(/\.origin 0o020/);
  expect(disassembled({ start: '18' })).toMatch(/--start 18 is no address\. Unmarked numbers are octal here/);
  expect(disassembled({ from: 'x' })).toMatch(/--from x is no address/);
});

test('a file that cannot be written, and object code that is damaged, are told', () => {
  const { fake, errors } = terminal({ ...sources, 'bad.hex': ':0100000012EC\nrubbish\n:00000001FF' });
  expect(assembleCommand(fake, 'curlew.yaml', 'watch.asm', { hex: '/nowhere.hex' })).toBe(2);
  expect(errors()).toMatch(/cannot be written/);
  expect(disassembleCommand(fake, 'curlew.yaml', 'bad.hex', {})).toBe(1);
  expect(errors()).toMatch(/bad.hex:1:1: error: The checksum is EC and should be ED/);
  expect(errors()).toMatch(/bad.hex:2:1: error: A record starts with a colon/);
});

function scripted(script: string, source: string, options: RunOptions = {}, machine = 'gannet') {
  const { fake, ...seen } = terminal({ 'm.yaml': demoFile(`machines/${machine}.yaml`), 'p.asm': source, 's.txt': script });
  return { code: run(fake, 'm.yaml', 'p.asm', { script: 's.txt', ...options }), ...seen };
}

test('run --script gives inputs, lets devices change, and does what hands do at their ticks', () => {
  const { code, text } = scripted(
    'input "ebb"          ; typed at the start\nat 2000: input "."\nkeys is not ready until 20 reads, then as it is\nat 100: lamps = 0b101',
    program('harbour-log'),
    { json: true },
  );
  const ending = JSON.parse(text());
  expect([code, ending.output, ending.devices]).toEqual([0, 'log: ebb.', { lamps: 5 }]);
  expect(ending.counts.polls.keys.busy).toBeGreaterThan(20);
  expect(ending.counts.instructions['TRAP {number}']).toBeGreaterThan(5);
});

test('mistakes in a script have their line', () => {
  const { code, errors } = scripted('input "x"\nkeyz is ready for ever\nat noon: R1 = 4\nR1 is 4', 'HALT');
  expect([code, errors().split('\n')]).toEqual([
    1,
    [
      's.txt:2:1: error: There is no device “keyz”. Did you mean keys?',
      's.txt:3:1: error: “noon” is no tick. Write “at 120: R1 = 4”.',
      's.txt:4:1: error: There is no device “R1”. There is: keys, display, lamps.',
    ],
  ]);
});

test('run --trace and --vcd write every tick; a file that cannot be written is told', () => {
  const { fake, saved } = terminal({ 'm.yaml': curlew, 'p.asm': program('quay-watch') });
  expect(run(fake, 'm.yaml', 'p.asm', { trace: 't.csv', vcd: 't.vcd' })).toBe(0);
  const rows = new TextDecoder().decode(saved.get('t.csv')).trim().split('\r\n');
  expect(rows).toHaveLength(51);
  expect(rows[0]).toBe('tick,address,instruction,phase,transfers,written,output,PC,IR,MAR,MDR,ACC,X,SP,Z,N,C,V,H,P');
  expect(rows[16]).toBe(
    '16,2,ADD rise,Execute,ACC <- ACC + MDR ; flags Z N C V H P,ACC=201 Z=0 N=1 C=0 V=0 H=1 P=1,,4,13121,65,43,201,0,240,0,1,0,0,1,1',
  );
  expect(new TextDecoder().decode(saved.get('t.vcd'))).toMatch(/\$var reg 8 % ACC \[7:0\] \$end/);
  expect(run(fake, 'm.yaml', 'p.asm', { vcd: 't.vcd', cells: 'M[0x20], M[0x21]' })).toBe(0);
  expect(new TextDecoder().decode(saved.get('t.vcd'))).toMatch(/ M0x20 \[7:0\] \$end\n\$var reg 8 \S+ M0x21 /);
  expect(run(fake, 'm.yaml', 'p.asm', { vcd: 't.vcd', cells: 'nowhere' })).toBe(2);
  expect(run(fake, 'm.yaml', 'p.asm', { trace: '/t.csv' })).toBe(2);
});

test('somebody at the terminal is asked for what the run waits for, and a bad answer is refused', () => {
  const { fake, errors, text } = terminal({ 'm.yaml': curlew, 'p.asm': 'TRAP askLevel\nTRAP showNumber\nHALT' });
  const lines = ['x', '41'];
  let shown = '';
  fake.ask = () => lines.shift();
  fake.stream = (more) => (shown += more);
  expect(run(fake, 'm.yaml', 'p.asm', {})).toBe(0);
  expect([errors(), shown]).toEqual([expect.stringMatching(/“x” is no number/), expect.stringMatching(/41/)]);
  expect(text()).toMatch(/^Halted/);
});

test('remarks of the run go to the error stream, and into the JSON', () => {
  expect(ran('LOAD 0x80\nHALT').errors()).toMatch(
    /^Tick \d+: Line 1, LOAD 0x80 at 0x00: read cell 0x80, which nothing has ever written\.$/m,
  );
});

test('a kept run is replayed tick for tick, and what is no kept run is refused', () => {
  const kept = {
    ...{ zettak: 'run', version: 1, machine: { name: 'Curlew', text: curlew }, program: { text: program('highest-water'), parts: {} } },
    ...{ kept: [[0, 0x80, 7]], script: 'input 120 158\nat 60: input 0', tick: 150, note: 'second reading' },
  };
  const { fake, text, errors } = terminal({
    'k.json': JSON.stringify(kept),
    'bad.json': '{',
    'other.json': '{"zettak":"run"}',
    'torn.json': JSON.stringify({ ...kept, script: 'input x' }),
    'far.json': JSON.stringify({ ...kept, tick: 9_000_000 }),
  });
  expect(replay(fake, 'k.json', {})).toBe(0);
  expect(text()).toMatch(/^level\? [\s\S]*Replayed to tick 150, as it was kept \(second reading\)\./);
  expect(['bad', 'other', 'torn', 'none'].map((each) => replay(fake, `${each}.json`, {}))).toEqual([1, 1, 1, 2]);
  expect(errors()).toMatch(/not JSON[\s\S]*no kept run[\s\S]*“x” is no number/);
  expect(replay(fake, 'far.json', { json: true })).toBe(1);
  expect(text()).toMatch(/which is short of tick 9000000/);
});

/** The built command, in a shell, as somebody types it. */
function shell(command: string, typed?: string): Promise<{ code: number | null; out: string }> {
  const child = spawn('sh', ['-c', command], { cwd: join(__dirname, '../..') });
  let out = '';
  child.stdout.on('data', (text) => (out += String(text)));
  child.stderr.on('data', (text) => (out += String(text)));
  // Whoever sits there reads first and types then.
  if (typed !== undefined) setTimeout(() => child.stdin.write(typed), 1500);
  return new Promise((resolve) =>
    child.on('exit', (code) => {
      child.stdin.destroy();
      resolve({ code, out });
    }),
  );
}

/** The second cell tells its two instructions apart. */
const twoCells = `${smallMachine().replace('  both:  opcode 8, value 8 either', '  both:  opcode 8, value 8 either\n  twice: opcode 8, detail 8')}  ONE: {forms: [{write: ONE, code: twice opcode=9 detail=1, execute: halt}]}\n  TWO: {forms: [{write: TWO, code: twice opcode=9 detail=2, execute: halt}]}\n`;

const ZETTAK = 'node cli/bin/zettak.mjs';

test('at a terminal a run waits for what is typed, however late it comes', async () => {
  const command = `${ZETTAK} run demo/machines/curlew.yaml demo/programs/highest-water.asm`;
  const { out, code } = await shell(`script -qec "${command}" /dev/null`, '120\r158\r0\r');
  expect(out).toMatch(/highest: 158/);
  expect(out).toMatch(/Halted after/);
  expect(code).toBe(0);
}, 30_000);

test('whoever reads only the head of what is written gets no error', async () => {
  const { out } = await shell(`${ZETTAK} check demo/machines/gannet.yaml --card | head -1; ${ZETTAK} schema | head -1`);
  expect(out.trim().split('\n')).toHaveLength(2);
  expect(out).not.toMatch(/EPIPE|Error/);
}, 30_000);

test('a text of a megabyte and a half is assembled within seconds, whatever its lines are', () => {
  for (const line of ['; a comment about the harbour\n', '\n', '.include "nothing\n', ' LAOD #5\n']) {
    const source = line.repeat(Math.floor(1_500_000 / line.length / (line.includes('LAOD') ? 40 : 1)));
    const began = process.cpuUsage().user;
    const { fake } = terminal({ 'm.yaml': curlew, 'p.asm': `${source} HALT\n` });
    assembleCommand(fake, 'm.yaml', 'p.asm', {});
    // What was quadratic took minutes; the bound is wide, so that a slow computer passes.
    expect((process.cpuUsage().user - began) / 1e6).toBeLessThan(10);
  }
}, 90_000);

test('a byte order mark before a program, a machine or a script means nothing', () => {
  const { code, text } = ran('\uFEFFLOAD #7\nTRAP showNumber\nHALT', {}, `\uFEFF${curlew}`);
  expect([code, text()]).toEqual([0, expect.stringMatching(/^7\n/)]);
});

test('inputs that are left over are told, in words and as data', () => {
  const source = 'TRAP askLevel\nHALT';
  const told = ran(source, { input: '5 158 9' });
  expect(told.errors()).toBe('2 of the 3 inputs were left over, from the value 0x9E on.');
  const { text } = ran(source, { input: '5 158 9', json: true });
  expect(JSON.parse(text()).inputs).toEqual({ given: 3, used: 1, left: [158, 9] });
});

test('declared outputs are results, in their base and unit; what a script gives comes before what is given beside it', () => {
  const source =
    ' .output top, decimal, "cm"\n .output mask, binary\n TRAP askLevel\n STORE top\n STORE mask\n HALT\ntop .cells 0\nmask .cells 0';
  const { fake, text } = terminal({ 'm.yaml': curlew, 'p.asm': source, 's.txt': 'input 158' });
  expect(run(fake, 'm.yaml', 'p.asm', { script: 's.txt', input: '9' })).toBe(0);
  expect(text()).toMatch(/^top: 158 cm\nmask: 0b10011110$/m);
  const { text: json } = ran(source, { input: '9', json: true });
  expect(JSON.parse(json()).results).toEqual({ top: 9, mask: 9 });
});

test('a run ends after so many instructions, to the instruction', () => {
  for (const count of ['1', '7', '20000']) {
    const { code, text } = ran('loop INC\nJUMP loop', { maxInstructions: count, proof: false, json: true });
    expect([code, JSON.parse(text()).instructions]).toEqual([6, Number(count)]);
  }
  expect(ran('HALT', { maxInstructions: 'x' }).errors()).toMatch(/no number of instructions/);
});

test('a run of so many instructions ends on the same tick, compiled or traced, with instructions that a guard passes over', () => {
  const finish = ['T <- T + 1', 'CLOCK[0] <- T'];
  const machine = guardedMachine({ guarded: [['A <- A + value', 'A <- A + value']], finish, plain: [] });
  const source = ' PUT 3\nagain MAY0 4\n MAY0 5\n DEC\n GO again';
  const ends = [{}, { trace: 'trace.csv' }].map((more) => {
    const { text } = ran(source, { maxInstructions: '5003', proof: false, json: true, ...more }, machine);
    const { ticks, instructions, registers } = JSON.parse(text()) as { ticks: number; instructions: number; registers: object };
    return { ticks, instructions, registers };
  });
  expect(ends[0]).toEqual(ends[1]);
  expect(ends[0]).toMatchObject({ ticks: 20_153, instructions: 5003 });
});

test('the map names every operation that a first cell may begin', () => {
  expect(checked(twoCells, { map: true }).text()).toMatch(/ONE\/TWO/);
});

test('the trace has a column for each flag, status word, port and device, and a row for what comes from outside', () => {
  const dunlin = demoFile('machines/dunlin.yaml');
  const { fake, saved } = terminal({
    'm.yaml': dunlin,
    'p.asm': 'IN 1\nOUT 2\nHALT',
    's.txt': 'set switches = 2\nat 5: switches = 3\nat 6: ACC = 1\nat 3: input 1\nat 4: input 2\nlamps.red is 0 until tick 7, then 1',
  });
  expect(run(fake, 'm.yaml', 'p.asm', { script: 's.txt', trace: 't.csv' })).toBe(0);
  const [head, ...rows] = new TextDecoder().decode(saved.get('t.csv')).trim().split(/\r?\n/);
  const columns = head!.split(',');
  expect(columns).toEqual(expect.arrayContaining(['C', 'Z', 'G', 'PORT[2]', 'switches', 'lamps']));
  const cells = rows.map((each) => each.replaceAll(/"[^"]*"/g, 'quoted').split(','));
  expect(new Set(cells.map((each) => each.length))).toEqual(new Set([columns.length]));
  const outside = rows.filter((each) => each.includes('from outside'));
  expect(outside.map((each) => each.split(',')[0])).toEqual(['0', '3', '4', '5', '6', '7']);
  expect(outside[2]).toMatch(/,input 2,/);
  expect(outside[5]).toMatch(/lamps\.red is 0 until tick 7, then 1/);
  expect(outside[3]).toMatch(/switches = 0x3/);
  expect(cells.at(-1)![columns.indexOf('PORT[2]')]).toMatch(/^\d+$/);
});

test('a port with only lamps says what is attached there when it is read', () => {
  const { text, code } = ran('IN 2\nHALT', {}, demoFile('machines/dunlin.yaml'));
  expect([code, text()]).toEqual([
    4,
    expect.stringMatching(
      /^Stopped on line 1, 0x000 IN 2: nothing answers there: at port 0x2 only lamps is attached, which cannot do that\./,
    ),
  ]);
});

describe('trial', () => {
  const sets = (lines: string): string => `zettak: sets\nversion: 1\nsets:\n${lines}`;
  function tried(text: string, options: TrialOptions = {}, source = program('quay-watch')) {
    const { fake, ...seen } = terminal({ 'm.yaml': curlew, 'p.asm': source, 's.yaml': text });
    return { code: trial(fake, 'm.yaml', 'p.asm', 's.yaml', options), ...seen };
  }
  const holds = '  - {name: calm, given: {level: 59, rise: 44}, expected: {later: 103}}\n';
  const differs = '  - {name: spring, given: {level: 183, rise: 110}, expected: {later: 9}}\n';

  test('ends with 0 where all hold, with 7 where some differ, and says which', () => {
    expect(tried(sets(holds))).toMatchObject({ code: 0 });
    const { code, text } = tried(sets(holds + differs));
    expect(code).toBe(7);
    expect(text()).toMatch(/^holds {4}calm/m);
    expect(text()).toMatch(/^DIFFERS {2}spring.*\n {9}later: expected 9, came 37\.$/m);
    expect(text()).toMatch(/^1 of 2 sets hold, 1 differ\.$/m);
  });

  test('ends with 1 where a text has problems: the program, the file of sets, a set', () => {
    expect(tried(sets(holds), {}, ' LAOD #1')).toMatchObject({ code: 1 });
    const none = tried('zettak: sets\nversion: 1\nsets: [{nam: x}]');
    expect([none.code, none.errors()]).toEqual([1, expect.stringMatching(/^s\.yaml:3:1: error: Set 1, name: this is missing\./)]);
    const unread = tried(sets(`${holds}  - {name: x, given: {levl: 1}}\n`));
    expect([unread.code, unread.text()]).toEqual([1, expect.stringContaining('Did you mean level?')]);
    expect(tried(sets(holds), { junit: '/nowhere' })).toMatchObject({ code: 2 });
  });

  test('writes rows as JSON, JUnit XML and CSV', () => {
    const { code, text, saved } = tried(sets(holds + differs), { json: true, junit: 'r.xml', csv: 'r.csv' });
    expect(code).toBe(7);
    expect(JSON.parse(text())).toMatchObject({
      machine: 'Curlew',
      rows: [
        { name: 'calm', verdict: 'holds' },
        { name: 'spring', differs: 1 },
      ],
    });
    expect(JSON.parse(text()).rows[0].flags[0].by).toMatch(/line \d+$/);
    const read = (file: string): string => new TextDecoder().decode(saved.get(file));
    expect(read('r.xml')).toMatch(/<testsuite name="p\.asm" tests="2" failures="1" errors="0"/);
    expect(read('r.csv')).toMatch(/^set,verdict,end,instructions,ticks,expected later,seen later/);
  });
});

describe('numbers on the command line are read in the machine’s base where they are not marked', () => {
  const hexadecimal = curlew.replace('  bits: 8\n', '  bits: 8\n  base: hex\n');
  const source = 'start READIT\n HALT\nlevel .room 1'.replace('READIT', 'TRAP askLevel\n STORE level');
  test.each([
    ['--set', curlew, '21', 21],
    ['--set', curlew, '0x21', 33],
    ['--set', hexadecimal, '21', 33],
    ['--set', hexadecimal, '0d21', 21],
    ['--input', curlew, '21', 21],
    ['--input', hexadecimal, '21', 33],
    ['--input', hexadecimal, '0b101', 5],
    ['sets', curlew, '21', 21],
    ['sets', hexadecimal, '21', 33],
  ])('%s, case %#', (way, machine, text, value) => {
    if (way === 'sets') {
      const { fake, text: said } = terminal({
        ...{ 'm.yaml': machine, 'p.asm': source },
        's.yaml': `zettak: sets\nversion: 1\nsets:\n  - {name: a, given: {input: ${text}}, expected: {level: 0d${value}, ACC: ${text}}}\n`,
      });
      expect([trial(fake, 'm.yaml', 'p.asm', 's.yaml', {}), said()]).toEqual([0, expect.stringContaining('1 of 1 sets hold')]);
      return;
    }
    const options = way === '--set' ? { set: [`0x70=${text}`], input: '0d7' } : { input: text };
    const { text: said } = ran(source, { ...options, json: true }, machine);
    const { registers, cells } = JSON.parse(said()) as { registers: { ACC: number }; cells: { M: Record<string, number> } };
    if (way === '--input') expect(registers.ACC).toBe(value);
    else expect(ran(`start LOAD 0x70\n HALT`, { ...options, json: true }, machine).text()).toContain(`"ACC": ${value}`);
    expect(cells.M).toBeDefined();
  });
});
