/** A format on a ruler: fields from left to right, edges that move by mouse and by keys, in digits of the machine. */
import { Box, chakra, Flex } from '@chakra-ui/react';
import { ArrowLeft, ArrowRight, Plus, Trash2 } from 'lucide-react';
import { useRef, useState } from 'react';
import { moveEdge, readFormat, writeFormat, type FormatItem, type FormatText } from '@zettak/core/machine/document/codeText';
import type { Path } from '@zettak/core/machine/document/yaml';
import { unitOf } from '@zettak/core/text/number';
import { Button } from '../ui/Button';
import { Entry } from '../ui/Field';
import { Hidden, Hint } from '../ui/Panel';
import { useDefinedSame, useDefining } from './defining';
import { useTyped } from './typed';

const Field = chakra('button', {
  base: {
    position: 'relative',
    minWidth: '18px',
    py: '7px',
    fontFamily: 'mono',
    fontSize: '13px',
    textAlign: 'center',
    overflow: 'hidden',
    cursor: 'pointer',
    borderBottom: '3px solid',
    '&[aria-pressed=true]': { outline: '2px solid', outlineColor: 'ink', outlineOffset: '-2px' },
  },
  variants: {
    kind: {
      code: { bg: 'sand2', borderColor: 'wire' },
      operand: { bg: 'addressPale', borderColor: 'address' },
      unused: { bg: 'sea', borderColor: 'edge', color: 'ink3' },
    },
  },
});

const Edge = chakra('button', {
  base: {
    width: '9px',
    flexShrink: '0',
    cursor: 'col-resize',
    touchAction: 'none',
    bg: 'ink',
    borderInline: '3px solid',
    borderColor: 'paper',
    _hover: { bg: 'data' },
  },
});

interface RulerProps {
  readonly path: Path;
  readonly text: string;
  /** Digits of fixed fields, by name: they stand in the ruler instead of the name. */
  readonly digits?: ReadonlyMap<string, string> | undefined;
  /** Digits of one cell. */
  readonly cell: number;
  readonly radix: 2 | 10;
}

export function FormatRuler({ path, text, digits, cell, radix }: RulerProps) {
  const defining = useDefining();
  const [chosen, setChosen] = useState<number>();
  const ruler = useRef<HTMLDivElement>(null);
  const dragged = useRef<{ at: number; x: number; from: FormatText; moved: boolean } | undefined>(undefined);
  const format = readFormat(text);
  if (!format) return <Hint as="p">This is no list of fields yet: names with widths, as in “opcode 8, address 8”.</Hint>;
  const { items } = format;
  const total = items.reduce((sum, each) => sum + each.width, 0);
  const cells = total / cell;
  const write = (to: FormatText): void => {
    const value = writeFormat(to);
    if (value !== text) void defining.act({ kind: 'set', path, value });
  };
  const drag = (event: React.PointerEvent): void => {
    const held = dragged.current;
    const width = ruler.current?.clientWidth ?? 1;
    if (!held) return;
    const value = writeFormat(moveEdge(held.from, held.at, Math.round(((event.clientX - held.x) / width) * total)));
    if (!held.moved && value === text) return;
    // All of one movement is taken back at once.
    defining.type(path, value, { on: held.moved });
    held.moved = true;
  };
  const key = (event: React.KeyboardEvent, at: number): void => {
    const by = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    if (by === 0) return;
    event.preventDefault();
    write(moveEdge(format, at, by));
  };
  const unit = unitOf(radix);
  return (
    <Box data-testid="format-ruler">
      <Flex ref={ruler} border="1px solid" borderColor="edge" borderRadius="4px" overflow="hidden">
        {items.map((item, at) => (
          <Flex key={at} flex={`${item.width} 1 0`} minWidth="22px">
            <Field
              type="button"
              flex="1"
              kind={item.name === 'zero' || item.name === 'any' ? 'unused' : digits?.has(item.name) ? 'code' : 'operand'}
              aria-pressed={chosen === at}
              onClick={() => setChosen(chosen === at ? undefined : at)}
              title={`${item.name}, ${item.width} ${unit}`}
            >
              {digits?.has(item.name) && <Hidden>{`${item.name}: `}</Hidden>}
              {digits?.get(item.name) ?? (item.range ? `${item.name}[${item.range.high}:${item.range.low}]` : item.name)}
              <chakra.span display="block" fontSize="11px" color="ink3">
                {item.width}
              </chakra.span>
            </Field>
            {at < items.length - 1 && (
              <Edge
                type="button"
                aria-label={`Edge between ${item.name} and ${items[at + 1]?.name ?? ''}: left and right arrow move it`}
                title="Drag, or move with ← and →"
                onKeyDown={(event) => key(event, at)}
                onPointerDown={(event) => {
                  event.currentTarget.setPointerCapture(event.pointerId);
                  dragged.current = { at, x: event.clientX, from: format, moved: false };
                }}
                onPointerMove={drag}
                onPointerUp={(event) => {
                  // Where it is let go counts, however fast it came there.
                  drag(event);
                  dragged.current = undefined;
                }}
                data-edge={at}
              />
            )}
          </Flex>
        ))}
      </Flex>
      <Hint as="p" pt="3px" data-testid="format-sum">
        {`${total} ${unit}: ${Number.isInteger(cells) ? `${cells} ${cells === 1 ? 'cell' : 'cells'} of ${cell}` : `no whole number of cells of ${cell} ${unit}`}`}
        {format.order && `, cells behind the first ${format.order} first`}
      </Hint>
      {chosen !== undefined && items[chosen] && (
        <ItemEditor key={chosen} {...{ format, write, unit }} at={chosen} item={items[chosen]} choose={setChosen} />
      )}
      <Flex gap="6px" pt="6px" align="baseline" wrap="wrap">
        <Button
          look="tag"
          onClick={() => (
            write({ ...format, items: [...items, { name: freeField(items), width: 1, words: [] }] }),
            setChosen(items.length)
          )}
        >
          <Plus size={13} aria-hidden /> field
        </Button>
        <AsText path={path} text={text} />
      </Flex>
    </Box>
  );
}

const freeField = (items: readonly FormatItem[]): string => {
  const names = ['address', 'value', 'r', 'detail'];
  return names.find((each) => !items.some(({ name }) => name === each)) ?? `field${items.length}`;
};

function AsText({ path, text }: { path: Path; text: string }) {
  const { value, type, leave } = useTyped(path, text, { optional: false });
  return (
    <Entry
      aria-label="Fields as text"
      flex="1"
      minWidth="200px"
      fontFamily="mono"
      value={value}
      onChange={(event) => type(event.target.value)}
      onBlur={leave}
      data-testid="format-text"
    />
  );
}

interface ItemProps {
  readonly format: FormatText;
  readonly at: number;
  readonly item: FormatItem;
  readonly unit: string;
  readonly write: (to: FormatText, typed?: boolean) => void;
  readonly choose: (at: number | undefined) => void;
}

/** One field: its name, its width, and how its value is written. */
function ItemEditor({ format, at, item, unit, write, choose }: ItemProps) {
  const { items } = format;
  const [name, setName] = useState(item.name);
  const [words, setWords] = useState(item.words.join(' '));
  const [width, setWidth] = useState<string>();
  const put = (change: Partial<FormatItem>): void => write({ ...format, items: items.with(at, { ...item, ...change }) }, true);
  const move = (to: number): void => {
    write({ ...format, items: items.toSpliced(at, 1).toSpliced(to, 0, item) });
    choose(to);
  };
  return (
    <Flex gap="8px" align="center" wrap="wrap" pt="6px" fontSize="13px" data-testid="field-editor">
      <label>
        Field{' '}
        <Entry
          room="value"
          value={name}
          onChange={(event) => {
            setName(event.target.value);
            if (/^[A-Za-z]\w*$/.test(event.target.value)) put({ name: event.target.value });
          }}
        />
      </label>
      <label>
        {unit}{' '}
        <Entry
          room="count"
          inputMode="numeric"
          value={width ?? item.width}
          onChange={(event) => {
            setWidth(event.target.value);
            const wanted = Number(event.target.value);
            if (Number.isInteger(wanted) && wanted > 0 && wanted < 100) put({ width: wanted });
          }}
          onBlur={() => setWidth(undefined)}
        />
      </label>
      <label>
        written as{' '}
        <Entry
          width="170px"
          fontFamily="mono"
          placeholder="signed, register R …"
          value={words}
          onChange={(event) => {
            setWords(event.target.value);
            put({ words: event.target.value.split(/\s+/).filter((each) => each !== '') });
          }}
        />
      </label>
      <Button look="tag" aria-label="Field to the left" disabled={at === 0} onClick={() => move(at - 1)}>
        <ArrowLeft size={13} aria-hidden />
      </Button>
      <Button look="tag" aria-label="Field to the right" disabled={at === items.length - 1} onClick={() => move(at + 1)}>
        <ArrowRight size={13} aria-hidden />
      </Button>
      <Button
        look="tag"
        aria-label={`Remove the field ${item.name}`}
        disabled={items.length === 1}
        onClick={() => {
          write({ ...format, items: items.toSpliced(at, 1) });
          choose(undefined);
        }}
      >
        <Trash2 size={13} aria-hidden />
      </Button>
    </Flex>
  );
}

/** Where a format's list of fields stands in the document, and what it says. */
export function useFormat(name: string): { readonly path: Path; readonly text: string } {
  const said = useDefinedSame((state) => {
    const formats = state.look?.document;
    const all = typeof formats === 'object' && !Array.isArray(formats) && 'formats' in formats ? formats.formats : undefined;
    return typeof all === 'object' && !Array.isArray(all) ? (all as Record<string, unknown>)[name] : undefined;
  });
  if (typeof said === 'string') return { path: ['formats', name], text: said };
  const fields = typeof said === 'object' && said !== null && 'fields' in said ? said.fields : '';
  return { path: ['formats', name, 'fields'], text: typeof fields === 'string' ? fields : '' };
}
