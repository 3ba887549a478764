/** Cells entered by hand, one after another, with what they mean and whether they agree; one instruction done at once. */
import { useEffect, useRef, useState } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { programSpaceOf } from '@zettak/core/machine/model/machine';
import { numberReader } from '@zettak/core/machine/model/numbers';
import { power, shownDigits, shownNumber } from '@zettak/core/text/number';
import { useEditor } from '../../editor/handle';
import { engine } from '../../session/engine';
import type { HandRow, HandView } from '@zettak/core/session/protocol';
import { useDocument } from '../document';
import { baseRead, useLooks } from '../looks';
import { BASE_WORDS } from '@zettak/core/text/number';
import { useRun } from '../run';
import { useText } from '../text';
import { Box, Table } from '@chakra-ui/react';
import { Button } from '../../ui/Button';
import { Entry, Label } from '../../ui/Field';
import { Apart, Controls, Hint } from '../../ui/Panel';
import { Check } from '../../ui/Check';

const ROWS = 12;

/** Works on the cells of the run, and compares them with the text in the editor. */
export function HandTab() {
  const machine = useDocument((state) => state.machine);
  const view = useRun((state) => state.view);
  const source = useText((state) => state.source);
  const [from, setFrom] = useState(0);
  const [hand, setHand] = useState<HandView>();
  useEffect(() => {
    let live = true;
    void engine.hand.handRows(source, from, ROWS).then((found) => live && setHand(found));
    return () => {
      live = false;
    };
  }, [source, from, view]);
  const [wanted, setWanted] = useState<number>();
  const table = useRef<HTMLTableSectionElement>(null);
  useEffect(() => {
    const input = wanted === undefined ? null : table.current?.querySelector<HTMLInputElement>(`[data-hand="${wanted}"] input`);
    if (!input) return;
    input.focus();
    input.select();
    setWanted(undefined);
  }, [wanted, hand]);
  /** The cells move along under whoever types on. */
  const onward = (step: 1 | -1): void => {
    if (!machine) return;
    const next = step === 1 ? from + ROWS : from - 1;
    if (next < 0 || next >= programSpaceOf(machine).cells) return;
    setFrom(step === 1 ? from + 1 : from - 1);
    setWanted(next);
  };
  const base = useLooks((state) => (machine ? baseRead(machine, state.base) : 10));
  if (!machine || !view || !hand) return <Hint as="p">Load a program first; then its cells can be entered by hand.</Hint>;
  return (
    <div>
      <AddressField machine={machine} from={from} setFrom={setFrom} />
      <Agreement machine={machine} hand={hand} goTo={setFrom} />
      <Table.Root data-testid="hand">
        <Table.Header>
          <Table.Row>
            <Table.ColumnHeader scope="col">cell</Table.ColumnHeader>
            <Table.ColumnHeader scope="col">code, {BASE_WORDS[base]}</Table.ColumnHeader>
            <Table.ColumnHeader scope="col">means</Table.ColumnHeader>
          </Table.Row>
        </Table.Header>
        <Table.Body ref={table}>
          {hand.rows.map((each) => (
            <CellRow key={each.address} {...{ machine, onward }} row={each} />
          ))}
        </Table.Body>
      </Table.Root>
      <Controls>
        <Button disabled={from === 0} onClick={() => setFrom(Math.max(0, from - ROWS))}>
          ‹ previous cells
        </Button>
        <Button disabled={from + ROWS >= programSpaceOf(machine).cells} onClick={() => setFrom(from + ROWS)}>
          next cells ›
        </Button>
        <Button onClick={() => void engine.hand.putBack()} data-testid="put-back">
          Put all back
        </Button>
      </Controls>
      <OneInstruction />
    </div>
  );
}

function AddressField({ machine, from, setFrom }: { machine: Machine; from: number; setFrom: (address: number) => void }) {
  const { cells, addressWidth } = programSpaceOf(machine);
  const [text, setText] = useState('');
  const wanted = numberReader(machine)(text.trim());
  const wrong = text.trim() !== '' && (wanted === undefined || wanted >= cells);
  return (
    <Controls
      as="form"
      onSubmit={(event) => {
        event.preventDefault();
        if (wanted !== undefined && wanted < cells) setFrom(wanted);
      }}
    >
      <Label>
        from{' '}
        <Entry
          room="word"
          aria-label="First cell to enter"
          aria-invalid={wrong}
          placeholder={shownNumber(from, addressWidth, machine)}
          value={text}
          onChange={(event) => setText(event.target.value)}
          data-testid="hand-from"
        />
      </Label>
      <Button type="submit">go</Button>
      {wrong && <Hint>0 to {shownNumber(cells - 1, addressWidth, machine)}</Hint>}
    </Controls>
  );
}

function Agreement({ machine, hand, goTo }: { machine: Machine; hand: HandView; goTo: (address: number) => void }) {
  if (hand.cells === 0) return <Hint as="p">The program has errors, so there is nothing to compare with.</Hint>;
  const { addressWidth } = programSpaceOf(machine);
  return (
    <p data-testid="agreement">
      <b>
        {hand.agree} of {hand.cells}
      </b>{' '}
      cells agree with the program{hand.differ.length > 0 ? '; not ' : '.'}
      {hand.differ.slice(0, 6).map((each) => (
        <Button look="link" key={each} onClick={() => goTo(each)}>
          {shownNumber(each, addressWidth, machine)}
        </Button>
      ))}
      {hand.differ.length > 6 ? ` and ${hand.differ.length - 6} more` : ''}
    </p>
  );
}

/** Words without a mark are read in the base of the panel, which is that of memory. */
function readWord(machine: Machine, text: string, base: number): number | undefined {
  const value = numberReader(machine, base)(text.trim());
  return value !== undefined && value < power(machine.radix, programSpaceOf(machine).width) ? value : undefined;
}

interface CellParts {
  readonly machine: Machine;
  readonly row: HandRow;
  /** Past the last cell that is shown, or before the first. */
  readonly onward: (step: 1 | -1) => void;
}

function CellRow({ machine, row, onward }: CellParts) {
  const { width, addressWidth } = programSpaceOf(machine);
  const { address, value, never, byHand, should, meaning } = row;
  const base = useLooks((state) => baseRead(machine, state.base));
  const inBase = (word: number): string =>
    base === 16 || machine.radix === 10 ? shownDigits(word, width, machine) : word.toString(base).padStart(base === 2 ? width : 1, '0');
  const shown = never ? '' : inBase(value);
  const [text, setText] = useState<string>();
  const field = useRef<HTMLInputElement>(null);
  const word = text === undefined ? undefined : readWord(machine, text, base);
  const wrong = text !== undefined && text.trim() !== '' && word === undefined;
  const enter = (): void => {
    if (word !== undefined && text !== shown) void engine.hand.setCell(machine.programSpace, address, word);
    if (!wrong) setText(undefined);
  };
  const move = (step: 1 | -1): void => {
    const row = field.current?.closest('tr');
    const next = step === 1 ? row?.nextElementSibling : row?.previousElementSibling;
    const input = next?.querySelector('input');
    if (!input) return onward(step);
    input.focus();
    input.select();
  };
  const differs = should !== undefined && should !== value;
  return (
    <Table.Row bg={differs ? 'nowPale' : byHand ? 'sea' : undefined} data-hand={address}>
      <Table.Cell as="th" scope="row" fontFamily="mono">
        {shownDigits(address, addressWidth, machine)}
      </Table.Cell>
      <Table.Cell>
        <Entry
          width="62px"
          fontFamily="mono"
          ref={field}
          aria-label={`Cell ${shownNumber(address, addressWidth, machine)}`}
          aria-invalid={wrong}
          value={text ?? shown}
          placeholder="··"
          onChange={(event) => setText(event.target.value)}
          onBlur={enter}
          onFocus={(event) => event.target.select()}
          onKeyDown={(event) => {
            const step = event.key === 'Enter' || event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : undefined;
            if (event.key === 'Escape') setText(undefined);
            if (step === undefined || wrong) return;
            event.preventDefault();
            enter();
            move(step);
          }}
        />
      </Table.Cell>
      <Table.Cell>
        {wrong ? (
          <Box as="span" color="problem">
            0 to {inBase(power(machine.radix, width) - 1)}
          </Box>
        ) : word !== undefined && text !== shown ? (
          <Hint>is {machine.radix === 10 ? word : `${word} = ${shownNumber(word, width, machine)}`}</Hint>
        ) : (
          <>
            {meaning}
            {differs && <Hint color="now"> the program has {inBase(should)}</Hint>}
            {byHand && !differs && <Hint> by hand</Hint>}
          </>
        )}
      </Table.Cell>
    </Table.Row>
  );
}

/** Typed, assembled at PC and carried out; kept as source if wanted. */
function OneInstruction() {
  const next = useRun((state) => state.view?.next.address);
  const machine = useDocument((state) => state.machine)!;
  const [text, setText] = useState('');
  const [keep, setKeep] = useState(false);
  const editor = useEditor();
  const [told, setTold] = useState('');
  const apply = async (): Promise<void> => {
    const result = await engine.hand.applyOne(text);
    setTold('done' in result ? `Done: ${result.done}.` : result.refused);
    if (!('done' in result)) return;
    const view = keep ? editor.view : undefined;
    if (view) {
      const line = view.state.doc.lineAt(view.state.selection.main.head);
      view.dispatch({
        changes: { from: line.to, insert: `\n        ${text.trim()}` },
        selection: { anchor: line.to + 9 + text.trim().length },
      });
    }
    setText('');
  };
  return (
    <Apart
      as="form"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim()) void apply();
      }}
    >
      <Label display="block">
        <b>One instruction</b>, at {next === undefined ? 'PC' : shownNumber(next, programSpaceOf(machine).addressWidth, machine)}, done at
        once
        <Entry room="line" mt="4px" value={text} onChange={(event) => setText(event.target.value)} data-testid="one" spellCheck={false} />
      </Label>
      <Check on={keep} change={setKeep} mt="6px" testId="one-keep">
        keep it in the program, below the cursor
      </Check>
      <p role="status" data-testid="one-told">
        {told}
      </p>
    </Apart>
  );
}
