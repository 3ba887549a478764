/** The text that a new program begins with: it names itself, assembles, and ends. */
import { effectsOf } from '../../machine/model/effects';
import type { Machine } from '../../machine/model/machine';

/** Forms that are told of in a text that tells what the machine can do. */
const MOST_TOLD = 40;

/** With `tells` remarks on what can be written on this machine stand in front. */
export function firstProgram(machine: Machine | undefined, name: string, { tells = false } = {}): string {
  const written = (machine?.forms ?? []).map((form) => ({ form, text: form.written.replace(/[{}]/g, '') }));
  const offers = tells ? written.slice(0, MOST_TOLD).map(({ form, text }) => `;   ${text.padEnd(24)} ${form.title}`) : [];
  const last = written.find(({ form }) => !form.written.includes('{') && effectsOf(machine!, form).halts)?.text;
  const head = tells ? [`; A program for ${name}. It can do:`, ...offers] : [`; ${name}`];
  return [...head, '', last === undefined ? '' : `start   ${last}`, ''].join('\n');
}
