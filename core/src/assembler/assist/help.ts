/** What an editor can say about words and offer for insertion: operations, directives, names of the machine. */
import { cardOf } from '../../machine/model/card';
import type { Machine } from '../../machine/model/machine';
import { DIRECTIVES } from '../read/directives';
import { itemAt } from '../../text/itemAt';
import { meaningOf, spellingsOf } from '../../machine/model/spellings';
import { perMachine } from '../../machine/model/perMachine';

/** One written form, as a palette shows it. */
export interface Offer {
  /** With holes in braces: what is inserted, its holes filled one after the other. */
  readonly written: string;
  readonly mnemonic: string;
  readonly title: string;
  readonly family: string;
  /** Cells of the encoding, and flags that it sets. */
  readonly encoding: string;
  readonly flags: readonly string[];
  readonly sentence: string;
}

export interface NamedValue {
  readonly name: string;
  readonly says: string;
}

export interface LanguageHelp {
  readonly offers: readonly Offer[];
  readonly names: readonly NamedValue[];
}

/** Every word and written form of a machine and its directives, for completion and explanation. */
export const helpOf = perMachine((machine): LanguageHelp => ({ offers: offersOf(machine), names: namesOf(machine) }));

function offersOf(machine: Machine): Offer[] {
  const card = cardOf(machine);
  const forms = machine.forms.flatMap((form, at): Offer[] => {
    const { cells, flags, sentence, title, family, spelled } = itemAt(card, at);
    const [does = ''] = sentence.split(' Written as');
    const shared = { family, encoding: cells.join(', '), flags };
    return spellingsOf(form).map(({ operation, settles, rest }) => {
      const behind = rest.map((each) => ('text' in each ? each.text : `{${each.field}}`)).join('');
      const means = settles.map(({ field, value }) => meaningOf(field, value, machine.conditions)).filter((each) => each !== '');
      // Where the operation names a condition, that is what tells one spelling from the others.
      const said = means.length > 0 ? means.join(', ') : title;
      const plain = (operation + behind).replace(/[{}]/g, '');
      const own =
        spelled.length > 0 ? `${plain}: ${means.length > 0 ? `${title}, ${said}` : title}${does.slice(does.indexOf(';'))}` : sentence;
      return { ...shared, written: operation + behind, mnemonic: operation, title: said, sentence: own };
    });
  });
  const shorts = machine.shortForms.map((form): Offer => ({
    written: form.written,
    mnemonic: form.mnemonic,
    title: form.title,
    family: 'short forms',
    encoding: '',
    flags: [],
    sentence: `${form.written.replace(/[{}]/g, '')}${form.title ? `: ${form.title}` : ''}; it stands for ${form.lines.join(' and ')}.`,
  }));
  const directives = DIRECTIVES.map(({ name, written, does }): Offer => ({
    written: written.replace(/ (.+)$/, (_, rest: string) => ` {${rest}}`),
    mnemonic: name,
    title: does,
    family: 'directives',
    encoding: '',
    flags: [],
    sentence: `${written}: ${does}.`,
  }));
  return [...forms, ...shorts, ...directives];
}

function namesOf(machine: Machine): NamedValue[] {
  const registers = machine.arrays.flatMap(({ names }) => names.flatMap((each) => each.map((name) => ({ name, says: 'register' }))));
  const views = machine.views.flatMap(({ name: view, options }) =>
    options.flatMap((each) => (each ? each.names.map((name) => ({ name, says: `one of ${view}` })) : [])),
  );
  const values = machine.formats
    .flatMap((each) => each.fields)
    .filter((each) => each.names && each.array === undefined)
    .flatMap((field) =>
      [...(field.names ?? [])].flatMap(([value, names]) =>
        names.map((name) => ({ name, says: meaningOf(field, value, machine.conditions) || `${field.name} ${value}` })),
      ),
    );
  const named = new Map([...registers, ...views, ...values].filter(({ name }) => name !== '').map((each) => [each.name, each]));
  return [
    ...machine.traps.map(({ name, number, service }) => ({ name, says: `service ${number}: ${service}` })),
    ...machine.routines.map(({ name, number }) => ({ name, says: `trap ${number}` })),
    ...[...machine.assembly.constants].map(([name, value]) => ({ name, says: `constant ${value}` })),
    ...machine.devices.flatMap(({ name, title, data, status, lines }) => [
      ...(data ? [{ name: `${name}.data`, says: title }] : []),
      ...(status ? [{ name: `${name}.status`, says: `${title}, is it ready?` }] : []),
      ...[...lines.keys()].map((line) => ({ name: `${name}.${line}`, says: `line of ${title}` })),
    ]),
    ...named.values(),
  ];
}
