/** Listings and object code, out and in, and a pasted listing freed of its numbers. */
import { useState } from 'react';
import { engine } from '../../session/engine';
import { useEditor } from '../../editor/handle';
import { saveFile } from '../../ui/saveFile';
import { numberRules } from '@zettak/core/machine/model/numbers';
import { BASE_WORDS, readNumber, type Base } from '@zettak/core/text/number';
import type { CodeFormat, CodeIn, CodeOrder, CodeRead } from '@zettak/core/session/protocol';
import { useDocument } from '../document';
import { setOnPaper } from '../looks';
import { say, useText } from '../text';
import { Button } from '../../ui/Button';
import { Entry, Label, TextEntry } from '../../ui/Field';
import { Controls, Frame, FrameHead, Heading, Hint, Item, List, Plain } from '../../ui/Panel';
import { Choice } from '../../ui/Choice';
import { FileButton } from '../../ui/FileButton';
import { Box } from '@chakra-ui/react';
import { itemAt } from '@zettak/core/text/itemAt';

const OUT: readonly { readonly format: CodeFormat; readonly says: string; readonly ending: string; readonly bytes?: true }[] = [
  { format: 'listing', says: 'Listing', ending: 'lst.txt' },
  { format: 'cells', says: 'Listing, a line a cell', ending: 'cells.txt' },
  { format: 'symbols', says: 'Names and uses', ending: 'names.txt' },
  { format: 'hex', says: 'Intel HEX', ending: 'hex', bytes: true },
  { format: 'bin', says: 'Raw binary', ending: 'bin', bytes: true },
  { format: 'csv', says: 'Cells as CSV', ending: 'csv' },
  { format: 'words', says: 'Words', ending: 'words.txt' },
];

const ORDERS: readonly { readonly value: CodeOrder; readonly says: string }[] = [
  { value: 'high first', says: 'highest byte first' },
  { value: 'low first', says: 'lowest byte first' },
];

/** Works on the text in the editor, loaded or not. */
export function CodeTab() {
  const machine = useDocument((state) => state.machine);
  const program = useDocument((state) => state.program);
  const source = useText((state) => state.source);
  const [space, setSpace] = useState(0);
  const [order, setOrder] = useState<CodeOrder>('high first');
  const [shown, setShown] = useState<{ readonly says: string; readonly text: string }>();
  if (!machine || !program) return null;
  const index = space < machine.spaces.length ? space : machine.programSpace;
  const wide = itemAt(machine.spaces, index).width > 8;
  const write = async (format: CodeFormat, act: 'show' | 'save'): Promise<void> => {
    const { says, ending } = OUT.find((each) => each.format === format)!;
    const written = await engine.texts.writeCode(source, { format, space: index, order });
    if ('refused' in written) return setShown({ says, text: written.refused });
    const { content } = written;
    if (act === 'save') saveFile(`${program.id}.${ending}`, content);
    else
      setShown({
        says,
        text: typeof content === 'string' ? content : [...content].map((each) => each.toString(16).padStart(2, '0')).join(' '),
      });
  };
  return (
    <div>
      <Heading>Out</Heading>
      {(machine.spaces.length > 1 || wide) && (
        <Controls>
          {machine.spaces.length > 1 && (
            <Choice
              label="Memory of the file"
              value={index}
              choose={(value) => setSpace(Number(value))}
              options={machine.spaces.map((each, value) => ({ value, says: each.title }))}
            />
          )}
          {wide && <Choice label="Order of bytes" value={order} choose={(value) => setOrder(value as CodeOrder)} options={ORDERS} />}
        </Controls>
      )}
      <List className="formats">
        {OUT.filter((each) => !each.bytes || machine.radix === 2).map(({ format, says }) => (
          <Item key={format}>
            <Box as="span" flex="1">
              {says}
            </Box>
            <Button onClick={() => void write(format, 'show')} data-testid={`show-${format}`} aria-label={`Show: ${says}`}>
              show
            </Button>
            <Button onClick={() => void write(format, 'save')} aria-label={`Save: ${says}`}>
              save
            </Button>
            {format === 'listing' && (
              <Button onClick={() => setOnPaper('listing')} aria-label="Print: Listing" data-testid="print-listing">
                print
              </Button>
            )}
          </Item>
        ))}
      </List>
      {machine.radix === 10 && <Hint as="p">Cells of a decimal machine are no bytes: CSV carries them.</Hint>}
      {shown && <Shown {...shown} close={() => setShown(undefined)} />}
      <CodeBack space={index} order={order} />
    </div>
  );
}

function Shown({ says, text, close }: { says: string; text: string; close: () => void }) {
  return (
    <Frame>
      <FrameHead>
        <b>{says}</b>
        <Button onClick={() => void navigator.clipboard.writeText(text).then(() => say(`${says}: copied.`))}>copy</Button>
        <Button onClick={close}>close</Button>
      </FrameHead>
      <Plain tabIndex={0} data-testid="shown-code" aria-label={says}>
        {text}
      </Plain>
    </Frame>
  );
}

type InFormat = CodeIn['format'] | 'listing';

/** `bits`: only for machines of bits. */
const IN: readonly { readonly value: InFormat; readonly says: string; readonly bits?: true }[] = [
  { value: 'listing', says: 'a pasted listing' },
  { value: 'hex', says: 'Intel HEX', bits: true },
  { value: 'bin', says: 'raw binary (a file)', bits: true },
  { value: 'csv', says: 'cells as CSV' },
  { value: 'words', says: 'words' },
];

/** Text that is pasted, or a file: looked at first, taken then. */
function CodeBack({ space, order }: { space: number; order: CodeOrder }) {
  const machine = useDocument((state) => state.machine)!;
  const [format, setFormat] = useState<InFormat>('listing');
  const [pasted, setPasted] = useState('');
  const [from, setFrom] = useState('0');
  const [preview, setPreview] = useState<CodeRead & Agreement>();
  const rules = numberRules(machine);
  const base = BASE_WORDS[rules.base as Base];
  const start = readNumber(from.trim(), rules);
  const look = async (content: string | Uint8Array, as: InFormat): Promise<void> => {
    if (as !== 'listing') return setPreview(await engine.texts.readCode(content, { format: as, space, order, from: start ?? 0 }));
    const cleaned = await engine.texts.cleaned(content as string);
    setPreview(
      cleaned
        ? { text: cleaned.text, cells: 0, problems: cleaned.differences, agree: cleaned.same }
        : { cells: 0, problems: [{ line: 0, sentence: 'This does not look like a listing: most lines should begin with numbers.' }] },
    );
  };
  const open = async (file: File): Promise<void> => {
    if (file.size > 1_000_000) return say(`${file.name} has more than 1,000,000 bytes; that is no program for this machine.`);
    const ending = /\.(hex|ihx|ihex|bin|csv)$/i.exec(file.name)?.[1]?.toLowerCase();
    const as: InFormat = ending === 'bin' || ending === 'csv' ? ending : ending ? 'hex' : format;
    setFormat(as);
    if (as === 'bin') return look(new Uint8Array(await file.arrayBuffer()), as);
    const text = await file.text();
    setPasted(text.slice(0, 200_000));
    await look(text, as);
  };
  return (
    <>
      <Heading>In</Heading>
      <Controls>
        <Choice
          label="What is brought in"
          testId="in-format"
          value={format}
          choose={(value) => setFormat(value as InFormat)}
          options={IN.filter((each) => !each.bits || machine.radix === 2)}
        />
        {(format === 'bin' || format === 'words') && (
          <Label>
            from ({base}){' '}
            <Entry
              room="word"
              aria-label={`Address of the first cell, ${base} where it is not marked`}
              value={from}
              onChange={(event) => setFrom(event.target.value)}
              aria-invalid={start === undefined}
            />
          </Label>
        )}
        <FileButton words="file …" label="A file to bring in" take={(file) => void open(file)} />
      </Controls>
      {format !== 'bin' && (
        <TextEntry
          aria-label="Text to bring in"
          data-testid="pasted"
          rows={4}
          spellCheck={false}
          placeholder={format === 'words' ? '40: 12 40 1F 05' : 'paste it here'}
          value={pasted}
          onChange={(event) => setPasted(event.target.value)}
        />
      )}
      {format !== 'bin' && (
        <Controls>
          <Button disabled={pasted.trim() === ''} onClick={() => void look(pasted, format)} data-testid="look">
            Look at it
          </Button>
        </Controls>
      )}
      {preview && <Preview {...preview} close={() => setPreview(undefined)} />}
    </>
  );
}

/** Whether the codes of a listing are those that come out here. */
function agreement(agree = 0, differ: number): string {
  if (agree + differ === 0) return 'Cleaned';
  return differ === 0
    ? `Cleaned; the codes of all ${agree} lines are the same here`
    : `Cleaned; codes of ${differ} lines differ, of ${agree} they are the same`;
}

/** Of a listing: lines whose codes are the same here. */
interface Agreement {
  readonly agree?: number;
}

function Preview({ text, cells, problems, agree, close }: CodeRead & Agreement & { close: () => void }) {
  const editor = useEditor();
  return (
    <Frame data-testid="preview">
      {problems.length > 0 && (
        <List px="8px" py="4px" color="problem">
          {problems.slice(0, 8).map((each, at) => (
            <li key={at}>
              {each.line > 0 && <b>Line {each.line}. </b>}
              {each.sentence}
            </li>
          ))}
        </List>
      )}
      {text !== undefined && (
        <>
          <FrameHead>
            <b>{cells > 0 ? `${cells} cells, as a program` : agreement(agree, problems.length)}</b>
            <Button
              data-testid="take"
              onClick={() => {
                editor.replaceText(text);
                close();
              }}
            >
              Take it in place of the program
            </Button>
          </FrameHead>
          <Plain tabIndex={0} aria-label="What would be taken">
            {text}
          </Plain>
        </>
      )}
    </Frame>
  );
}
