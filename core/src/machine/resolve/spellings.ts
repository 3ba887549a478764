/** What can clash where names of fields are part of operations: with mnemonics, with short forms, with each other. */
import type { Form, Machine, ShortForm } from '../model/machine';
import { alongForm } from '../model/perMachine';
import { areAlike, namesMark, shapeOf } from '../model/shapes';
import { spellingsOf, type Spelling } from '../model/spellings';
import { report, type DocumentReading } from './reading';
import { itemAt } from '../../text/itemAt';

/** What a line of each spelling comes down to. */
const keysOf = alongForm((form) => {
  const mark = (name: string): string => namesMark(form.operands.find((each) => each.name === name) ?? {});
  return spellingsOf(form).map((spelling) => ({
    spelling,
    key: `${spelling.operation.toUpperCase()}${shapeOf(spelling.rest, mark)}`,
  }));
});

/** Two forms that one line can be, because a name in an operation makes them alike; each pair once. */
export function checkSpellings(reading: DocumentReading, machine: Machine): void {
  const seen = new Map<string, { readonly owner: Form | ShortForm; readonly written: string; readonly spelled: boolean }>();
  const told = new Set<string>();
  const clash = (
    key: string,
    spelling: string,
    owner: Form | ShortForm,
    written: string,
    spelled: boolean,
    path: readonly (string | number)[],
  ): void => {
    const other = seen.get(key);
    if (!other) return void seen.set(key, { owner, written, spelled });
    if ((other.owner === owner && !spelled) || !(spelled || other.spelled)) return;
    // A shorter and a longer form of one instruction: the first that fits is taken.
    if (other.owner !== owner && 'format' in other.owner && 'format' in owner && areAlike(other.owner, owner)) return;
    const pair = `${other.written}\n${written}`;
    if (!told.has(pair)) report(reading, path, { code: 'spelling-twice', spelling, one: other.written, other: written });
    told.add(pair);
  };
  for (const form of machine.forms) {
    const at = reading.document.instructions[form.mnemonic]?.forms.findIndex((each) => each.write.trim() === form.written) ?? 0;
    for (const { spelling, key } of keysOf(form)) {
      clash(key, exampleOf(spelling), form, form.written, spelling.settles.length > 0, [
        'instructions',
        form.mnemonic,
        'forms',
        at,
        'write',
      ]);
    }
  }
  for (const short of machine.shortForms) {
    const key = shapeOf(short.pieces, () => '');
    clash(key, short.written.replace(/[{}]/g, ''), short, short.written, false, ['short forms', short.mnemonic]);
  }
}

const exampleOf = ({ operation, rest }: Spelling): string =>
  (operation + rest.map((each) => ('text' in each ? each.text : itemAt([each.field], 0))).join('')).trim();
