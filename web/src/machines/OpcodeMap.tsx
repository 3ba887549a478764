/**
 * Every first cell and what it means, at any size: of wide cells one entry stands for all that begin alike. Pointing decodes;
 * a free code takes a new instruction, or the one that is chosen; cells that mean two things show both.
 */
import { chakra, Flex } from '@chakra-ui/react';
import { Fragment, memo, useMemo, useRef, useState } from 'react';
import { readCode, writeCode } from '@zettak/core/machine/document/codeText';
import { spelledBy } from '@zettak/core/machine/model/encode';
import type { Form, Machine, Tone } from '@zettak/core/machine/model/machine';
import { programSpaceOf } from '@zettak/core/machine/model/machine';
import { firstCells, fixedAt, opcodeMap, type MapCell } from '@zettak/core/machine/model/opcodeMap';
import { itemAt } from '@zettak/core/text/itemAt';
import { grouped, shownDigits, shownNumber } from '@zettak/core/text/number';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Entry } from '../ui/Field';
import { looks } from '../ui/Panel';
import { codeNumber } from './codeNumber';
import { textAt, useDefined, useDefining } from './defining';

const tone = (ground: string, edge: string) => ({ bg: ground, borderColor: edge });

/** The ground and edge of each colour that a family can have. */
export const tones: Readonly<Record<`& .${Tone}`, object>> = {
  '& .water': tone('addressPale', 'address'),
  '& .sand': tone('sand2', 'wire'),
  '& .rust': tone('dataPale', 'data'),
  '& .mist': tone('sea2', 'ink3'),
  '& .moss': tone('mossPale', 'moss'),
  '& .plum': tone('plumPale', 'plum'),
};

const Map = chakra('div', {
  base: {
    px: '12px',
    py: '8px',
    // Hundreds of cells: painted by themselves.
    isolation: 'isolate',
    '& h3': { fontWeight: '700', color: 'ink2', mb: '4px' },
    '& .hint': looks.hint,
    '& .decoded': { minHeight: '52px', pt: '5px', fontSize: '13px' },
    '& .grid': { display: 'grid', gap: '1px', fontFamily: 'mono', fontSize: '13px', lineHeight: '18px' },
    '& .head': { color: 'address', textAlign: 'center', fontSize: '12px', whiteSpace: 'nowrap', px: '3px' },
    '& .grid button': {
      minHeight: '18px',
      fontWeight: '700',
      textAlign: 'center',
      borderRadius: '2px',
      borderStyle: 'solid',
      borderWidth: '0 0 3px',
      lineHeight: '15px',
      cursor: 'pointer',
      '&::before': { content: 'attr(data-sign)' },
      '&[aria-current=true]': { outline: '2px solid', outlineColor: 'ink' },
    },
    '& .free': { bg: 'sea', borderColor: 'sea', _hover: { borderColor: 'edge' } },
    '& .clash': { bg: 'problem', color: 'onTone', borderColor: 'ink' },
    ...tones,
    '& .legend': { display: 'flex', flexWrap: 'wrap', columnGap: '12px', rowGap: '2px', fontSize: '13px', mt: '5px' },
    '& .legend b': { px: '5px', borderRadius: '2px', borderBottom: '3px solid' },
  },
});

export const OpcodeMap = memo(function OpcodeMap({ machine, old }: { machine: Machine; old: boolean }) {
  const defining = useDefining();
  const chosen = useDefined((state) => state.chosen);
  const formAt = useDefined((state) => state.form);
  const { used, free } = useMemo(() => opcodeMap(machine), [machine]);
  const { columns, step, cells } = useMemo(() => firstCells(machine), [machine]);
  const { width } = programSpaceOf(machine);
  const [at, setAt] = useState<number>();
  const [pointed, setPointed] = useState<number>();
  const grid = useRef<HTMLDivElement>(null);
  const own = chosen[0] === 'instructions' ? machine.forms.filter((each) => each.mnemonic === chosen[1])[formAt] : undefined;
  const go = (form: Form): void => {
    const forms = machine.forms.filter((each) => each.mnemonic === form.mnemonic);
    defining.choose(['instructions', form.mnemonic], forms.indexOf(form));
  };
  const press = (index: number | undefined): void => {
    if (index === undefined) return;
    setAt(index);
    const { forms, clash } = itemAt(cells, index);
    if (forms[0] && !clash) go(forms[0]);
  };
  const key = (event: React.KeyboardEvent): void => {
    const by = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -columns, ArrowDown: columns }[event.key];
    const from = Number((event.target as HTMLElement).dataset.cell);
    if (by === undefined || Number.isNaN(from)) return;
    event.preventDefault();
    const to = from + by;
    if (to < 0 || to >= cells.length) return;
    setAt(to);
    grid.current?.querySelector<HTMLElement>(`[data-cell="${to}"]`)?.focus();
  };
  const shown = pointed ?? at;
  const first = at ?? cells.findIndex((each) => own !== undefined && each.forms.includes(own));
  return (
    <Map data-testid="opcode-map">
      <h3>
        Opcode map <span className="hint">{`${grouped(used)} used, ${grouped(free)} free`}</span>
      </h3>
      <div
        className="grid"
        ref={grid}
        style={{ gridTemplateColumns: `max-content repeat(${columns}, 1fr)` }}
        onKeyDown={key}
        onMouseLeave={() => setPointed(undefined)}
        onMouseOver={(event) => setPointed(cellAt(event.target))}
        onClick={(event) => press(cellAt(event.target))}
      >
        <Codes {...{ machine, columns, step, cells, own }} tab={Math.max(0, first)} />
      </div>
      <div className="decoded" role="status" data-testid="decoded">
        {shown === undefined ? (
          <span className="hint">Point at a code, or press one.</span>
        ) : (
          <Decoded {...{ machine, own, step, width, go }} cell={itemAt(cells, shown)} />
        )}
      </div>
      {at !== undefined && shown === at && itemAt(cells, at).forms.length === 0 && (
        <Take key={at} {...{ machine, own, cell: itemAt(cells, at).first }} />
      )}
      <p className="legend">
        {machine.families.map((family) => (
          <span key={family.name}>
            <b className={family.tone}>{family.sign}</b> {family.name}
          </span>
        ))}
        {cells.some((each) => each.clash) && (
          <span>
            <b className="clash">2</b> means two things
          </span>
        )}
      </p>
      {/* Below all else, so that nothing moves while somebody is typing. */}
      {old && <p className="hint">As before the present errors.</p>}
    </Map>
  );
});

interface CodesProps extends ReturnType<typeof firstCells> {
  readonly machine: Machine;
  readonly own: Form | undefined;
  /** The cell that the tabulator comes to. */
  readonly tab: number;
}

/** All cells with their heads; as they are while nothing but the words around them changes. */
const Codes = memo(function Codes({ machine, columns, step, cells, own, tab }: CodesProps) {
  const { width } = programSpaceOf(machine);
  return (
    <>
      <span />
      {Array.from({ length: columns }, (_, column) => (
        <span key={column} className="head">
          {step === 1 ? column.toString(16).toUpperCase() : shownDigits(column, columnWidth(columns, machine), machine)}
        </span>
      ))}
      {Array.from({ length: Math.ceil(cells.length / columns) }, (_, row) => (
        <Fragment key={row}>
          <span className="head">{shownDigits(row * columns * step, width, machine)}</span>
          {cells.slice(row * columns, (row + 1) * columns).map((cell, column) => {
            const index = row * columns + column;
            return (
              <CellButton
                key={index}
                {...{ index, ...looksOf(machine, cell, step), says: saysOf(machine, cell, step, width) }}
                own={own !== undefined && cell.forms.includes(own)}
                tab={index === tab}
              />
            );
          })}
        </Fragment>
      ))}
    </>
  );
});

/** The cell that an event is about. */
function cellAt(target: EventTarget): number | undefined {
  const { cell } = (target as HTMLElement).dataset;
  return cell === undefined ? undefined : Number(cell);
}

const columnWidth = (columns: number, { radix }: Machine): number => Math.ceil(Math.log(columns) / Math.log(radix));

interface CellProps {
  readonly index: number;
  readonly says: string;
  readonly sign: string;
  readonly look: string;
  readonly own: boolean;
  readonly tab: boolean;
}

/** As bare as can be, and drawn anew only where something about it is another: there are 256, and somebody is typing. */
const CellButton = memo(function CellButton({ index, says, sign, look, own, tab }: CellProps) {
  return (
    <button
      type="button"
      tabIndex={tab ? 0 : -1}
      className={look}
      aria-current={own}
      aria-label={says}
      data-cell={index}
      data-sign={sign}
    />
  );
});

/** How a cell is shown: a sign and the colour of its family; of several operations their number. */
function looksOf(machine: Machine, { forms, clash }: MapCell, step: number): { readonly sign: string; readonly look: string } {
  const [form] = forms;
  if (clash) return { sign: '2', look: 'clash' };
  const family = form && machine.families.find((each) => each.name === form.family);
  if (!family) return { sign: '', look: 'free' };
  const several = step > 1 && new Set(forms.map((each) => each.mnemonic)).size > 1;
  return { sign: several ? String(Math.min(9, forms.length)) : family.sign, look: family.tone };
}

/** “0x12: LOAD address, bring …”; what is free is called so. */
function saysOf(machine: Machine, { first, forms, clash }: MapCell, step: number, width: number): string {
  const code =
    step === 1
      ? shownNumber(first, width, machine)
      : `${shownNumber(first, width, machine)} to ${shownNumber(first + step - 1, width, machine)}`;
  const [form] = forms;
  if (!form) return `${code}: free`;
  if (clash) return `${code} means ${forms.map((each) => each.written.replace(/[{}]/g, '')).join(' and ')}`;
  const names = step === 1 ? spelledBy(machine, form, first) : [...new Set(forms.map((each) => each.mnemonic))].join(', ');
  return `${code}: ${names}${step === 1 ? `, ${form.title}` : ''}`;
}

interface DecodedProps {
  readonly machine: Machine;
  readonly cell: MapCell;
  readonly step: number;
  readonly width: number;
  readonly own: Form | undefined;
  readonly go: (form: Form) => void;
}

function Decoded({ machine, cell, step, width, go }: DecodedProps) {
  return (
    <>
      <chakra.p color={cell.clash ? 'problem' : 'ink'}>{saysOf(machine, cell, step, width)}</chakra.p>
      {(cell.clash || cell.forms.length > 1) && (
        <Flex gap="6px" wrap="wrap">
          {cell.forms.slice(0, 12).map((form) => (
            <Button key={form.index} look="link" onClick={() => go(form)}>
              {form.written.replace(/[{}]/g, '')}
            </Button>
          ))}
        </Flex>
      )}
    </>
  );
}

/** What a free code can be given to: a new instruction, or the one that is chosen. */
function Take({ machine, own, cell }: { machine: Machine; own: Form | undefined; cell: number }) {
  const defining = useDefining();
  const [name, setName] = useState('');
  const formats = machine.formats.filter((each) => each.fields.some((field) => field.name === 'opcode')).map((each) => each.name);
  const [format, setFormat] = useState(own?.format.name ?? formats[0] ?? '');
  const { width } = programSpaceOf(machine);
  const shown = (value: number): string => codeNumber(machine, value);
  const make = async (event: React.FormEvent): Promise<void> => {
    event.preventDefault();
    const found = machine.formats.find((each) => each.name === format);
    if (!found || !name) return;
    const fixed = fixedAt(machine, found, ['opcode'], cell).map(({ field, value }) => ({ field, value: shown(value) }));
    const operands = found.fields.filter((each) => each.name !== 'opcode').map((each) => `{${each.name}}`);
    const write = [name, operands.join(', ')].filter((each) => each !== '').join(' ');
    const family = machine.forms.at(-1)?.family ?? 'other';
    const made = await defining.act({
      ...{ kind: 'insert', path: ['instructions', name] },
      value: { title: 'what it does', family, forms: [{ write, code: writeCode({ format, fixed }), execute: '' }] },
    });
    if (made) defining.choose(made);
  };
  const move = (): void => {
    if (!own) return;
    const forms = machine.forms.filter((each) => each.mnemonic === own.mnemonic);
    const path = ['instructions', own.mnemonic, 'forms', forms.indexOf(own), 'code'];
    const code = readCode(textAt(defining.state.look?.document, path));
    if (!code) return;
    const values = fixedAt(
      machine,
      own.format,
      code.fixed.map((each) => each.field),
      cell,
    );
    const fixed = code.fixed.map((each) => ({
      ...each,
      value: shownOf(values.find(({ field }) => field === each.field)?.value, each.value, shown),
    }));
    void defining.act({ kind: 'set', path, value: writeCode({ ...code, fixed }) });
  };
  return (
    <Flex
      as="form"
      gap="6px"
      wrap="wrap"
      align="center"
      pb="4px"
      onSubmit={(event: React.FormEvent) => void make(event)}
      data-testid="take-code"
    >
      <Entry
        room="word"
        aria-label={`Name of a new instruction at ${shownNumber(cell, width, machine)}`}
        placeholder="name"
        value={name}
        maxLength={40}
        onChange={(event) => setName(event.target.value.toUpperCase())}
      />
      <Choice label="Its format" value={format} choose={setFormat} options={formats.map((each) => ({ value: each, says: each }))} />
      <Button type="submit" disabled={name === ''} data-testid="new-here">
        New here
      </Button>
      {own && (
        <Button onClick={move} data-testid="move-here">
          {`Move ${own.mnemonic} here`}
        </Button>
      )}
    </Flex>
  );
}

/** As it was written where nothing changes. */
const shownOf = (value: number | undefined, before: string, shown: (value: number) => string): string =>
  value === undefined || Number(before) === value ? before : shown(value);
