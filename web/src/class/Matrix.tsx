/** Hand-ins by sets: a verdict in each cell, with sign and words. */
import { Box, Flex } from '@chakra-ui/react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useMemo, useRef } from 'react';
import { useNavigate } from 'react-router';
import type { HandInRow, Matrix as MatrixOf } from '@zettak/api/matrix';
import type { CheckedRow } from '@zettak/core/trials/handIns/check';
import { seenWords } from '@zettak/core/trials/sets/output';
import { Choice } from '../ui/Choice';
import { Entry } from '../ui/Field';
import { Hint, PanelHead, PanelTitle } from '../ui/Panel';
import { PlainButton } from '../ui/Button';
import { choose, ontoBench } from './acts';
import { shownRows, useClass, type Show, type SortBy } from './state';

const ROW = 33;

export function Matrix() {
  const matrix = useClass((state) => state.matrix);
  const chosen = useClass((state) => state.chosen);
  const show = useClass((state) => state.show);
  const sort = useClass((state) => state.sort);
  const group = useClass((state) => state.group);
  const find = useClass((state) => state.find);
  const rows = useMemo(() => shownRows({ matrix, show, sort, group, find }), [matrix, show, sort, group, find]);
  const room = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => room.current, estimateSize: () => ROW, overscan: 12 });
  const navigate = useNavigate();
  const { scrollToIndex } = virtual;
  const at = rows.findIndex((each) => each.id === chosen);
  useEffect(() => {
    if (at >= 0) scrollToIndex(at, { align: 'auto' });
  }, [at, scrollToIndex]);
  if (!matrix) return null;
  const items = virtual.getVirtualItems();
  const before = items[0]?.start ?? 0;
  const after = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  const keys = (event: React.KeyboardEvent): void => {
    const way = { ArrowDown: 1, ArrowUp: -1, PageDown: 12, PageUp: -12, Home: -rows.length, End: rows.length }[event.key];
    if (way !== undefined) {
      event.preventDefault();
      choose(rows[Math.min(rows.length - 1, Math.max(0, Math.max(at, 0) + way))]?.id);
    } else if (event.key === 'Enter' && at >= 0) {
      event.preventDefault();
      void ontoBench('hand-in').then((path) => path !== undefined && navigate(path));
    }
  };
  return (
    <>
      <MatrixHead matrix={matrix} shown={rows.length} />
      <div
        ref={room}
        className="matrix-room"
        tabIndex={0}
        onKeyDown={keys}
        role="group"
        aria-label="Hand-ins: arrows choose, Enter opens on the bench"
        data-testid="matrix"
      >
        <table className="matrix" aria-rowcount={rows.length + 1}>
          <thead>
            <tr>
              <Head by="label">label</Head>
              <th scope="col">
                {matrix.sets.map((each, index) => (
                  <span
                    key={each.name}
                    className={`number ${firstHidden(matrix, index) ? 'hidden' : ''}`}
                    title={`${each.name}${each.hidden ? ', hidden' : ''}`}
                  >
                    {index + 1}
                  </span>
                ))}
              </th>
              <Head by="holds">holds</Head>
              <Head by="ticks">ticks</Head>
              <Head by="cells">cells</Head>
            </tr>
          </thead>
          <tbody>
            {before > 0 && <tr style={{ height: before }} aria-hidden />}
            {items.map(({ index }) => {
              const row = rows[index]!;
              return <Row key={row.id} row={row} sets={matrix.sets} chosen={row.id === chosen} />;
            })}
            {after > 0 && <tr style={{ height: after }} aria-hidden />}
          </tbody>
        </table>
        {matrix.rows.length === 0 && (
          <Hint as="p" px="12px" py="14px">
            Bring in files, a folder or a ZIP of programs: drop them anywhere here.
          </Hint>
        )}
        {matrix.rows.length > 0 && rows.length === 0 && (
          <Hint as="p" px="12px" py="14px">
            None of the {matrix.rows.length} hand-ins is so.
          </Hint>
        )}
      </div>
    </>
  );
}

const firstHidden = ({ sets }: Pick<MatrixOf, 'sets'>, index: number): boolean =>
  index > 0 && sets[index]!.hidden && !sets[index - 1]!.hidden;

function MatrixHead({ matrix, shown }: { matrix: MatrixOf; shown: number }) {
  const progress = useClass((state) => state.progress);
  const show = useClass((state) => state.show);
  const find = useClass((state) => state.find);
  const total = progress?.total ?? matrix.rows.length;
  const checked = matrix.rows.reduce((sum, each) => sum + (each.checked?.rows.length ?? 0), 0);
  return (
    <PanelHead>
      <PanelTitle>Hand-ins</PanelTitle>
      <Hint role="status" data-testid="counts">
        {shown < matrix.rows.length ? `${shown} of ` : ''}
        {matrix.rows.length} in; {checked.toLocaleString('en-US')} trials checked
      </Hint>
      <Flex flex="1" justify="flex-end" align="center" gap="8px">
        {progress && progress.waiting > 0 && (
          <>
            <Box
              role="progressbar"
              aria-label="Checking"
              aria-valuemin={0}
              aria-valuemax={total}
              aria-valuenow={total - progress.waiting}
              width="110px"
              height="8px"
              borderRadius="4px"
              bg="sea2"
            >
              <Box
                height="100%"
                borderRadius="4px"
                bg="address"
                style={{ width: `${(100 * (total - progress.waiting)) / Math.max(1, total)}%` }}
              />
            </Box>
            <Hint data-testid="left">{progress.waiting} left</Hint>
          </>
        )}
        <Entry
          placeholder="find a label"
          aria-label="Find a label"
          room="value"
          value={find}
          onChange={(event) => useClass.setState({ find: event.target.value })}
          data-testid="find-label"
        />
        <Choice
          look="head"
          label="Show"
          testId="show-rows"
          value={show}
          choose={(value) => useClass.setState({ show: value as Show })}
          options={[
            { value: 'all', says: 'all' },
            { value: 'fails', says: 'that fail' },
            { value: 'holds', says: 'that hold' },
            { value: 'late', says: 'that came late' },
          ]}
        />
      </Flex>
    </PanelHead>
  );
}

function Head({ by, children }: { by: SortBy; children: string }) {
  const sort = useClass((state) => state.sort);
  const own = sort.by === by;
  const turn = (): void => useClass.setState({ sort: { by, down: own ? !sort.down : by !== 'label' } });
  return (
    <th scope="col" aria-sort={own ? (sort.down ? 'descending' : 'ascending') : 'none'}>
      <PlainButton onClick={turn} data-sort={by}>
        {children}
        {own ? (sort.down ? ' ↓' : ' ↑') : ''}
      </PlainButton>
    </th>
  );
}

interface RowProps {
  readonly row: HandInRow;
  readonly sets: MatrixOf['sets'];
  readonly chosen: boolean;
}

const ORDINAL = ['', '', '2nd', '3rd'];

const Row = memo(function Row({ row, sets, chosen }: RowProps) {
  const { id, label, number, checked, broken, late, beside } = row;
  return (
    <tr className={chosen ? 'chosen' : ''} onClick={() => choose(id)} data-hand-in={label} aria-selected={chosen}>
      <th scope="row">
        {label}
        {number > 1 && <span className="note">{ORDINAL[number] ?? `${number}th`}</span>}
        {late && <span className="note">late</span>}
        {beside && (
          <span className="note" title="This label came from two places. Choose the row to say which one counts.">
            not counted
          </span>
        )}
      </th>
      <td>
        <Verdicts row={row} sets={sets} />
        {broken.length > 0 && (
          <span className="note wrong" title={broken.join('\n')}>
            changed since hand-in
          </span>
        )}
        {checked && checked.frame.length > 0 && (
          <span className="note" title={checked.frame.join('\n')}>
            given lines changed
          </span>
        )}
      </td>
      <td className="figure">{checked && !checked.errors ? `${checked.holds} of ${checked.rows.length}` : ''}</td>
      <td className="figure">{checked && checked.ticks > 0 ? checked.ticks.toLocaleString('en-US') : ''}</td>
      <td className="figure">{checked && checked.cells > 0 ? checked.cells.toLocaleString('en-US') : ''}</td>
    </tr>
  );
});

function Verdicts({ row: { state, sentence, checked }, sets }: Pick<RowProps, 'row' | 'sets'>) {
  if (!checked) {
    if (state === 'failed') return <span className="wrong">{sentence}</span>;
    if (state === 'called off') return <Hint>not checked</Hint>;
    return sets.map((each, index) => (
      <span
        key={each.name}
        className={`cell open ${firstHidden({ sets }, index) ? 'hidden-first' : ''}`}
        title={`${each.name}: not checked yet`}
      >
        …
      </span>
    ));
  }
  if (checked.errors) {
    const lines = checked.errors.map((each) => each.line);
    const count = lines.length === 1 ? '1 error, line' : `${lines.length} errors, lines`;
    return (
      <span className="wrong" title={checked.errors.map((each) => `Line ${each.line}: ${each.sentence}`).join('\n')}>
        does not assemble: {count} {[...new Set(lines)].slice(0, 6).join(', ')}
      </span>
    );
  }
  return checked.rows.map((each, index) => <Cell key={each.set} row={each} first={firstHidden({ sets }, index)} />);
}

function Cell({ row, first }: { row: CheckedRow; first: boolean }) {
  const { sign, look, says } = signOf(row);
  return (
    <span
      className={`cell ${look} ${first ? 'hidden-first' : ''}`}
      role="img"
      aria-label={`${row.set}: ${says}`}
      title={`${row.set}: ${says}`}
    >
      {sign}
    </span>
  );
}

/** What came of a set, as a sign and in words. */
export function signOf({ verdict, end, ending, ticks, differing }: CheckedRow): {
  readonly sign: string;
  readonly look: string;
  readonly says: string;
} {
  if (verdict === 'holds') return { sign: '✓', look: 'holds', says: `holds, ${ticks.toLocaleString('en-US')} ticks` };
  if (verdict === 'ran') return { sign: '·', look: 'open', says: 'ran, nothing expected' };
  if (verdict === 'unread') return { sign: '–', look: 'differs', says: ending };
  const what = differing.map((each) => `${each.column} ${seenWords(each, 200)} instead of ${each.expected}`).join(', ');
  switch (end) {
    case 'never halts':
      return { sign: '∞', look: 'endless', says: ending };
    case 'out of ticks':
      return { sign: '…', look: 'endless', says: ending };
    case 'fault':
      return { sign: '!', look: 'differs', says: ending };
    case 'waiting':
      return { sign: '?', look: 'differs', says: ending };
    default:
      return { sign: '✗', look: 'differs', says: what || ending };
  }
}
