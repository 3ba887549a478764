#!/usr/bin/env node
/** The command line: one command each in its own file. */
import { Command } from 'commander';
import { assembleCommand, type AssembleOptions } from './assemble';
import { check, type CheckOptions } from './check';
import { bring, checkAll, marks, type ClassOptions } from './class';
import { disassembleCommand, type DisassembleOptions } from './disassemble';
import { lesson } from './lesson';
import { passphrase } from './passphrase';
import { replay } from './replay';
import { run, type RunOptions } from './run';
import { schema } from './schema';
import { trial, type TrialOptions } from './trial';
import { processTerminal, WRONG_USE } from './terminal';
import { worker, type WorkerOptions } from './worker';

// Whoever reads only the beginning, as head does, has enough.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});

const collect = (value: string, all: string[]): string[] => [...all, value];

const program = new Command('zettak')
  .description(
    'Teaching machines on the command line. Exit codes: 0 well, 1 problems in the text, 2 wrong use, 3 waiting for input, 4 fault, 5 never halts, 6 budget spent, 7 some sets differ.',
  )
  .exitOverride((error) => process.exit(error.exitCode === 0 ? 0 : WRONG_USE));

program
  .command('check <file>')
  .description('check a machine document')
  .option('--json', 'problems as JSON')
  .option('--card', 'the reference card as Markdown')
  .option('--map', 'the opcode map as text')
  .option('--control', 'what every tick asks of the parts of the machine, as CSV')
  .action((file: string, options: CheckOptions) => {
    process.exitCode = check(processTerminal, file, options);
  });

program
  .command('schema [what]')
  .description('the JSON Schema of machine documents; “hand-in”: of hand-ins')
  .action((what?: string) => {
    process.exitCode = schema(processTerminal, what);
  });

program
  .command('lesson <course>')
  .description('make a folder of a course (ZIP or folder) that any file server serves, with the whole bench')
  .requiredOption('--out <folder>', 'where it is written; a lesson that is there is replaced')
  .action((course: string, options: { out: string }) => {
    process.exitCode = lesson(processTerminal, course, options);
  });

const remote = program
  .command('class')
  .description('hand in, check and fetch marks at a server; ZETTAK_PASSPHRASE opens the teacher’s session');
const at = (command: Command): Command => command.option('--server <address>', 'where it answers', 'http://localhost:4870');

at(remote.command('bring <assignment> <files...>'))
  .description('bring in programs or bundles, labelled by their names, and say what came of each')
  .action(async (assignment: string, files: string[], options: ClassOptions) => {
    process.exitCode = await bring(processTerminal, assignment, files, options);
  });

at(remote.command('check <assignment>'))
  .description('check everything again')
  .action(async (assignment: string, options: ClassOptions) => {
    process.exitCode = await checkAll(processTerminal, assignment, options);
  });

at(remote.command('marks <assignment>'))
  .description('marks as CSV')
  .option('--out <file>', 'write them to a file')
  .action(async (assignment: string, options: ClassOptions) => {
    process.exitCode = await marks(processTerminal, assignment, options);
  });

program
  .command('passphrase')
  .description('set the teacher’s passphrase, which a server that other computers reach asks for')
  .action(() => {
    process.exitCode = passphrase();
  });

at(program.command('worker'))
  .description('check hand-ins for a server that has a queue (ZETTAK_QUEUE, ZETTAK_WORKER_TOKEN), on any computer that reaches both')
  .option('--threads <count>', 'checks at once', '2')
  .option('--new-token', 'make a token for ZETTAK_WORKER_TOKEN, and do nothing else')
  .action((options: WorkerOptions) => worker(processTerminal, options));

program
  .command('assemble <machine> <source>')
  .description('assemble a program; without a wish of yours, say what it amounts to')
  .option('--listing', 'the listing, one line an instruction')
  .option('--cells', 'the listing, one line a cell')
  .option('--symbols', 'the names, with the lines that use them')
  .option('--hex <file>', 'write Intel HEX')
  .option('--bin <file>', 'write raw binary')
  .option('--csv <file>', 'write the cells of every space as CSV')
  .option('--space <name>', 'the space that --hex and --bin write')
  .option('--low-first', 'bytes of a cell lowest first')
  .option('--off <check>', 'switch a warning or remark off', collect, [])
  .option('--json', 'problems, facts, names, cells and listing as JSON')
  .action((machine: string, source: string, options: AssembleOptions) => {
    process.exitCode = assembleCommand(processTerminal, machine, source, options);
  });

program
  .command('disassemble <machine> <file>')
  .description('turn object code into a program that assembles to the same cells')
  .option('--format <name>', 'hex, bin, csv or words; else the ending of the file tells')
  .option('--from <address>', 'where the first cell of bin or words lies')
  .option('--start <address>', 'where the program starts')
  .option('--space <name>', 'the space that the cells belong to')
  .option('--low-first', 'bytes of a cell lowest first')
  .option('--json', 'the text and its figures as JSON')
  .action((machine: string, file: string, options: DisassembleOptions) => {
    process.exitCode = disassembleCommand(processTerminal, machine, file, options);
  });

program
  .command('run <machine> <source>')
  .description('assemble a program and run it')
  .option('--input <values>', 'what is read: numbers; texts in quotes; plain text on machines that read characters')
  .option('--set <cell=value>', 'preset a cell (by address, label, SPACE[cell] or SPACE[bank, cell]) or a device', collect, [])
  .option('--script <file>', 'inputs, devices that change by themselves, and what hands do, with their ticks')
  .option('--max <ticks>', 'most ticks')
  .option('--max-instructions <count>', 'most instructions')
  .option('--until <condition>', 'stop when this holds, as “ACC = 0”')
  .option('--trace <file>', 'write every tick as CSV')
  .option('--vcd <file>', 'write the signals as a value change dump')
  .option('--cells <list>', 'cells, ports and devices that become signals, with commas between; else the data of the program')
  .option('--no-proof', 'go on where the run can only repeat itself')
  .option('--json', 'the ending as JSON')
  .action((machine: string, source: string, options: RunOptions) => {
    process.exitCode = run(processTerminal, machine, source, options);
  });

program
  .command('trial <machine> <source> <sets>')
  .description('run every set of a file on a program, and say which hold')
  .option('--json', 'every row as JSON')
  .option('--junit <file>', 'write the results as JUnit XML')
  .option('--csv <file>', 'write the results as CSV')
  .action((machine: string, source: string, sets: string, options: TrialOptions) => {
    process.exitCode = trial(processTerminal, machine, source, sets, options);
  });

program
  .command('replay <file>')
  .description('do a run that was kept again, tick for tick')
  .option('--json', 'where it then stands, as JSON')
  .action((file: string, options: { json?: boolean }) => {
    process.exitCode = replay(processTerminal, file, options);
  });

await program.parseAsync();
