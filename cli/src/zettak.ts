#!/usr/bin/env node
/** The command line: one command each in its own file. */
import { Command } from 'commander';
import { check, type CheckOptions } from './check';
import { run, type RunOptions } from './run';
import { schema } from './schema';
import { processTerminal, WRONG_USE } from './terminal';

const collect = (value: string, all: string[]): string[] => [...all, value];

const program = new Command('zettak')
  .description(
    'Teaching machines on the command line. Exit codes: 0 well, 1 problems in the text, 2 wrong use, 3 waiting for input, 4 fault, 6 budget spent.',
  )
  .exitOverride((error) => process.exit(error.exitCode === 0 ? 0 : WRONG_USE));

program
  .command('check <file>')
  .description('check a machine document')
  .option('--json', 'problems as JSON')
  .option('--card', 'the reference card as Markdown')
  .option('--map', 'the opcode map as text')
  .action((file: string, options: CheckOptions) => {
    process.exitCode = check(processTerminal, file, options);
  });

program
  .command('schema')
  .description('the JSON Schema of machine documents')
  .action(() => {
    process.exitCode = schema(processTerminal);
  });

program
  .command('run <machine> <source>')
  .description('assemble a program and run it')
  .option('--input <values>', 'what is read: numbers; texts in quotes; plain text on machines that read characters')
  .option('--set <cell=value>', 'preset a cell (by address, label, SPACE[cell] or SPACE[bank, cell]) or a device', collect, [])
  .option('--max <ticks>', 'most ticks')
  .option('--json', 'the ending as JSON')
  .action((machine: string, source: string, options: RunOptions) => {
    process.exitCode = run(processTerminal, machine, source, options);
  });

program.parse();
