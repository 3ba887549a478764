/** Listings and object code, out and in, and a pasted listing freed of its numbers. */
import { useState } from 'react';
import { engine } from '../../session/engine';
import { useEditor } from '../../editor/handle';
import { saveFile } from '../../ui/saveFile';
import { readNumber } from '@zettak/core/text/number';
import type { CodeFormat, CodeIn, CodeOrder, CodeRead } from '@zettak/core/session/protocol';
import { useDocument } from '../document';
import { say, useText } from '../text';

const OUT: readonly { readonly format: CodeFormat; readonly says: string; readonly ending: string; readonly bytes?: true }[] = [
  { format: 'listing', says: 'Listing', ending: 'lst.txt' },
  { format: 'cells', says: 'Listing, a line a cell', ending: 'cells.txt' },
  { format: 'symbols', says: 'Names and uses', ending: 'names.txt' },
  { format: 'hex', says: 'Intel HEX', ending: 'hex', bytes: true },
  { format: 'bin', says: 'Raw binary', ending: 'bin', bytes: true },
  { format: 'csv', says: 'Cells as CSV', ending: 'csv' },
  { format: 'words', says: 'Words', ending: 'words.txt' },
];

export function CodeTab() {
  const machine = useDocument((state) => state.machine);
  const program = useDocument((state) => state.program);
  const source = useText((state) => state.source);
  const [space, setSpace] = useState(0);
  const [order, setOrder] = useState<CodeOrder>('high first');
  const [shown, setShown] = useState<{ readonly says: string; readonly text: string }>();
  if (!machine || !program) return null;
  const index = space < machine.spaces.length ? space : machine.programSpace;
  const wide = machine.spaces[index]!.width > 8;
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
    <div className="code-tool">
      <h3>Out</h3>
      {(machine.spaces.length > 1 || wide) && (
        <p className="choices">
          {machine.spaces.length > 1 && (
            <select aria-label="Memory of the file" value={index} onChange={(event) => setSpace(Number(event.target.value))}>
              {machine.spaces.map((each, at) => (
                <option key={each.name} value={at}>
                  {each.title}
                </option>
              ))}
            </select>
          )}
          {wide && (
            <select aria-label="Order of bytes" value={order} onChange={(event) => setOrder(event.target.value as CodeOrder)}>
              <option value="high first">highest byte first</option>
              <option value="low first">lowest byte first</option>
            </select>
          )}
        </p>
      )}
      <ul className="formats">
        {OUT.filter((each) => !each.bytes || machine.radix === 2).map(({ format, says }) => (
          <li key={format}>
            <span>{says}</span>
            <button
              type="button"
              className="plain"
              onClick={() => void write(format, 'show')}
              data-testid={`show-${format}`}
              aria-label={`Show: ${says}`}
            >
              show
            </button>
            <button type="button" className="plain" onClick={() => void write(format, 'save')} aria-label={`Save: ${says}`}>
              save
            </button>
          </li>
        ))}
      </ul>
      {machine.radix === 10 && <p className="hint pad">Cells of a decimal machine are no bytes: CSV carries them.</p>}
      {shown && <Shown {...shown} close={() => setShown(undefined)} />}
      <CodeBack space={index} order={order} />
    </div>
  );
}

function Shown({ says, text, close }: { says: string; text: string; close: () => void }) {
  return (
    <div className="shown">
      <header>
        <b>{says}</b>
        <button
          type="button"
          className="plain"
          onClick={() => void navigator.clipboard.writeText(text).then(() => say(`${says}: copied.`))}
        >
          copy
        </button>
        <button type="button" className="plain" onClick={close}>
          close
        </button>
      </header>
      <pre tabIndex={0} data-testid="shown-code" aria-label={says}>
        {text}
      </pre>
    </div>
  );
}

type InFormat = CodeIn['format'] | 'listing';

/** Text that is pasted, or a file: looked at first, taken then. */
function CodeBack({ space, order }: { space: number; order: CodeOrder }) {
  const machine = useDocument((state) => state.machine)!;
  const [format, setFormat] = useState<InFormat>('listing');
  const [pasted, setPasted] = useState('');
  const [from, setFrom] = useState('0');
  const [preview, setPreview] = useState<CodeRead>();
  const start = readNumber(from.trim());
  const look = async (content: string | Uint8Array, as: InFormat): Promise<void> => {
    if (as !== 'listing') return setPreview(await engine.texts.readCode(content, { format: as, space, order, from: start ?? 0 }));
    const cleaned = await engine.texts.cleaned(content as string);
    setPreview(
      cleaned
        ? { text: cleaned.text, cells: 0, problems: [] }
        : { cells: 0, problems: [{ line: 0, sentence: 'This does not look like a listing: most lines should begin with numbers.' }] },
    );
  };
  const open = async (file: File | undefined): Promise<void> => {
    if (!file) return;
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
      <h3>In</h3>
      <p className="choices">
        <select
          aria-label="What is brought in"
          data-testid="in-format"
          value={format}
          onChange={(event) => setFormat(event.target.value as InFormat)}
        >
          <option value="listing">a pasted listing</option>
          {machine.radix === 2 && <option value="hex">Intel HEX</option>}
          {machine.radix === 2 && <option value="bin">raw binary (a file)</option>}
          <option value="csv">cells as CSV</option>
          <option value="words">words</option>
        </select>
        {(format === 'bin' || format === 'words') && (
          <label>
            from{' '}
            <input
              aria-label="Address of the first cell"
              className="short"
              value={from}
              onChange={(event) => setFrom(event.target.value)}
              aria-invalid={start === undefined}
            />
          </label>
        )}
        <label className="plain file">
          file …
          <input type="file" aria-label="A file to bring in" onChange={(event) => void open(event.target.files?.[0])} />
        </label>
      </p>
      {format !== 'bin' && (
        <textarea
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
        <p className="choices">
          <button
            type="button"
            className="plain"
            disabled={pasted.trim() === ''}
            onClick={() => void look(pasted, format)}
            data-testid="look"
          >
            Look at it
          </button>
        </p>
      )}
      {preview && <Preview {...preview} close={() => setPreview(undefined)} />}
    </>
  );
}

function Preview({ text, cells, problems, close }: CodeRead & { close: () => void }) {
  const editor = useEditor();
  return (
    <div className="shown" data-testid="preview">
      {problems.length > 0 && (
        <ul className="pad problem-lines">
          {problems.slice(0, 8).map((each, at) => (
            <li key={at}>
              {each.line > 0 && <b>Line {each.line}. </b>}
              {each.sentence}
            </li>
          ))}
        </ul>
      )}
      {text !== undefined && (
        <>
          <header>
            <b>{cells > 0 ? `${cells} cells, as a program` : 'Cleaned'}</b>
            <button
              type="button"
              className="plain"
              data-testid="take"
              onClick={() => {
                editor.replaceText(text);
                close();
              }}
            >
              Take it in place of the program
            </button>
          </header>
          <pre tabIndex={0} aria-label="What would be taken">
            {text}
          </pre>
        </>
      )}
    </div>
  );
}
