/** A program with the cells that it has come to, a line a row: for paper. */
import { placeDigits } from '@zettak/core/machine/model/describe';
import type { Row } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/model/machine';
import { itemAt } from '@zettak/core/text/itemAt';
import { shownDigits } from '@zettak/core/text/number';

/** Of a line with more cells the first ones stand for all. */
const MOST_CELLS = 12;
/** Characters of cells beside a line; more of them go on below. */
const WIDEST = 19;

interface ListingTableProps {
  readonly machine: Machine;
  readonly source: string;
  /** Those of parts and of the system program are left out. */
  readonly rows: readonly Row[];
}

export function ListingTable({ machine, source, rows }: ListingTableProps) {
  const own = new Map(rows.filter((each) => each.part === undefined && !each.system).map((each) => [each.line, each]));
  const cells = ({ space = machine.programSpace, words }: Row): string => {
    const digits = words.slice(0, MOST_CELLS).map((each) => shownDigits(each, itemAt(machine.spaces, space).width, machine));
    const inLine = Math.max(1, Math.floor((WIDEST + 1) / ((digits[0]?.length ?? 0) + 1)));
    const lines = digits.flatMap((_, at) => (at % inLine === 0 ? [digits.slice(at, at + inLine).join(' ')] : []));
    return lines.join('\n') + (words.length > MOST_CELLS ? ' …' : '');
  };
  const place = ({ space = machine.programSpace, address }: Row): string => {
    if (address === undefined) return '';
    return `${space === machine.programSpace ? '' : `${itemAt(machine.spaces, space).name} `}${placeDigits(machine, { space, address })}`;
  };
  return (
    <table className="listing">
      <tbody>
        {source
          .replace(/\n$/, '')
          .split('\n')
          .map((text, at) => {
            const row = own.get(at + 1);
            // A line that is a remark and nothing else has all the width.
            const says = /^\s*;/.test(text);
            return (
              <tr key={at}>
                <td>{at + 1}</td>
                {!says && (
                  <>
                    <td className="mono address">{row ? place(row) : ''}</td>
                    <td className="mono cells">{row ? cells(row) : ''}</td>
                  </>
                )}
                <td className="mono" colSpan={says ? 3 : undefined}>
                  {says ? text.trim() : text}
                </td>
              </tr>
            );
          })}
      </tbody>
    </table>
  );
}
