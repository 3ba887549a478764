/** The run so far as a list, a line an instruction: where, what, what it changed, why. Only lines in sight are asked for. */
import { Box } from '@chakra-ui/react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState } from 'react';
import { isRunning } from '@zettak/core/session/protocol';
import type { RunRow } from '@zettak/core/session/runSoFar';
import { grouped } from '@zettak/core/text/number';
import { engine } from '../../session/engine';
import { PlainButton } from '../../ui/Button';
import { Hint } from '../../ui/Panel';
import { travel, useRun } from '../run';

const ROW = 22;
/** Lines that are asked for at once, and pages that are kept. */
const [PAGE, KEPT] = [60, 40];

export function SoFarList() {
  const instructions = useRun((state) => state.marked?.instructions ?? 0);
  const furthest = useRun((state) => state.marked?.furthest ?? 0);
  const loaded = useRun((state) => state.marked?.loaded);
  const ticks = useRun((state) => state.marked?.ticks ?? 0);
  const running = useRun((state) => isRunning(state.marked?.status));
  const [count, setCount] = useState(0);
  const [pages, setPages] = useState<ReadonlyMap<number, readonly RunRow[]>>(new Map());
  const room = useRef<HTMLDivElement>(null);
  const asked = useRef(new Set<number>());
  useEffect(() => {
    if (running) return;
    let live = true;
    asked.current.clear();
    void engine.soFar.count().then((found) => {
      if (!live) return;
      setCount(found);
      setPages(new Map());
    });
    return () => {
      live = false;
    };
  }, [furthest, loaded, running]);
  const virtual = useVirtualizer({ count, getScrollElement: () => room.current, estimateSize: () => ROW, overscan: 6 });
  const items = virtual.getVirtualItems();
  const [first, last] = [items[0]?.index ?? 0, items.at(-1)?.index ?? 0];
  useEffect(() => {
    if (count === 0 || running) return;
    for (let page = Math.floor(first / PAGE); page <= Math.floor(last / PAGE); page++) {
      if (asked.current.has(page)) continue;
      asked.current.add(page);
      void engine.soFar.rows(page * PAGE, PAGE).then((rows) =>
        setPages((now) => {
          const more = new Map(now).set(page, rows);
          for (const old of more.keys()) {
            if (more.size <= KEPT) break;
            more.delete(old);
            asked.current.delete(old);
          }
          return more;
        }),
      );
    }
  }, [first, last, count, pages, running]);
  const { scrollToIndex } = virtual;
  useEffect(() => {
    if (count > 0) scrollToIndex(Math.max(0, Math.min(count, instructions) - 1), { align: 'auto' });
  }, [instructions, count, scrollToIndex]);
  if (running)
    return (
      <Hint as="p" px="16px" py="6px">
        The list is written when the run pauses.
      </Hint>
    );
  if (count === 0)
    return (
      <Hint as="p" px="16px" py="6px">
        No instruction is done yet.
      </Hint>
    );
  return (
    <Box
      ref={room}
      height="100%"
      overflow="auto"
      tabIndex={0}
      role="region"
      aria-label="Instructions of the run"
      data-testid="so-far-list"
      css={LINES}
    >
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {items.map(({ index, start }) => {
          const row = pages.get(Math.floor(index / PAGE))?.[index % PAGE];
          return (
            <div
              key={index}
              className={row && row.tick === ticks ? 'line here' : 'line'}
              style={{ transform: `translateY(${start}px)` }}
              data-instruction={index + 1}
            >
              <span className="number">{grouped(index + 1)}</span>
              {row ? (
                <>
                  <span className="address">{row.address}</span>
                  <PlainButton
                    data-bench
                    onClick={() => travel(row.tick)}
                    title={`To tick ${grouped(row.tick)}${row.line === undefined ? '' : `, line ${row.line}`}`}
                  >
                    {row.text}
                  </PlainButton>
                  <span className="changed">{row.changed}</span>
                  <span className="why" title={row.why}>
                    {row.why}
                  </span>
                </>
              ) : (
                <span className="why">…</span>
              )}
            </div>
          );
        })}
      </div>
    </Box>
  );
}

const LINES = {
  '& .line': {
    position: 'absolute',
    insetInline: '0',
    height: `${ROW}px`,
    display: 'grid',
    gridTemplateColumns: '84px 62px 170px 190px 1fr',
    columnGap: '10px',
    alignItems: 'center',
    px: '12px',
    fontSize: '14px',
    whiteSpace: 'nowrap',
    borderBottom: '1px solid',
    borderColor: 'line',
  },
  '& .here': { bg: 'nowPale', boxShadow: 'inset 3px 0 0 var(--z-colors-now)' },
  '& .number': { textAlign: 'right', color: 'ink3', fontFamily: 'mono', fontSize: '13px' },
  '& .address': { color: 'address', fontFamily: 'mono' },
  '& button': {
    fontFamily: 'mono',
    textAlign: 'left',
    cursor: 'pointer',
    overflow: 'hidden',
    textOverflow: 'ellipsis',
    _hover: { textDecoration: 'underline' },
  },
  '& .changed': { fontFamily: 'mono', overflow: 'hidden', textOverflow: 'ellipsis' },
  '& .why': { color: 'ink2', overflow: 'hidden', textOverflow: 'ellipsis', fontSize: '13px' },
};
