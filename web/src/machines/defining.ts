/** A machine that is being defined: its text, what that amounts to, which part is chosen, and acts on it. One for each open machine. */
import { createContext, useCallback, useContext, useMemo, useRef, useState } from 'react';
import { createStore, useStore, type StoreApi } from 'zustand';
import type { NewNames } from '@zettak/core/assembler/assist/followRename';
import { NOTHING_GIVEN, type Given } from '@zettak/core/engine/sample/bed';
import type { DocumentAct } from '@zettak/core/session/definition';
import type { Look, PlacedProblem } from '@zettak/core/session/protocol';
import { placesOf, type OutlineSection } from '@zettak/core/machine/document/outline';
import type { Path } from '@zettak/core/machine/document/yaml';
import type { Plain } from '@zettak/core/machine/document/tree';
import { patched } from '@zettak/core/text/patch';
import type { Machine } from '@zettak/core/machine/model/machine';
import { DECIMAL, type NumberRules, type Numerals } from '@zettak/core/text/number';
import { baseTexts } from '../documents/baseTexts';
import type { EditorHandle } from '../editor/handle';
import { engine } from '../session/engine';

export type Face = 'parts' | 'text';

export interface DefiningState {
  readonly text: string;
  /** Of the text, or of one shortly before. */
  readonly look: Look | undefined;
  /** The newest that could be drawn: a machine without errors, or one in which only encodings clash. */
  readonly sound: Look | undefined;
  /** The parts of the newest text that was YAML. */
  readonly outline: readonly OutlineSection[];
  readonly face: Face;
  /** Of the chosen part; [] where none is. */
  readonly chosen: Path;
  /** Which of its written forms, of an instruction. */
  readonly form: number;
  readonly given: Readonly<Record<string, readonly Given[]>>;
  /** Why the last act was not done. */
  readonly refused: string;
  /** Counts up when the text has changed otherwise than by what is being typed: fields show what it says. */
  readonly turned: number;
  /** Something that was typed is on its way into the text. */
  readonly typing: boolean;
}

const key = (path: Path): string => JSON.stringify(path);
export const samePath = (one: Path, other: Path): boolean => key(one) === key(other);
const begins = (path: Path, beginning: Path): boolean => beginning.every((each, at) => path[at] === each);

/** ms that what an act has made waits for the look at it. */
const LATEST = 40;

export class Defining {
  readonly store: StoreApi<DefiningState>;
  private looking = false;
  private again = false;
  private closed = false;
  private acts: Promise<unknown> = Promise.resolve();
  /** The last look; with what ones before it had and it has not. */
  private held: { readonly number: number; readonly look?: Look } = { number: 0 };
  /** What programs have to follow once a version is kept. */
  renames: readonly NewNames[] = [];
  /** Writes what an act has made: with the look at it, so that all is drawn in one go, or without if that takes long. */
  private unwritten: (() => void) | undefined;
  /** What was typed and has not been begun to be written. */
  private waiting: { readonly path: Path; value: Plain } | undefined;
  /** Told of every change of the text that an act makes or somebody types. */
  onText: (text: string) => void = () => undefined;

  constructor(
    readonly editor: EditorHandle,
    text: string,
  ) {
    this.store = createStore<DefiningState>(() => ({
      ...{ text, look: undefined, sound: undefined, outline: [], face: 'parts', chosen: ['machine'], form: 0 },
      ...{ given: {}, refused: '', turned: 0, typing: false },
    }));
    this.look();
  }

  get state(): DefiningState {
    return this.store.getState();
  }

  close(): void {
    this.closed = true;
  }

  /** The text is another one now. */
  changed(text: string): void {
    if (text === this.state.text) return;
    this.store.setState({ text });
    this.onText(text);
    this.look();
  }

  /** An act on the document; resolves when its text has changed, with the path of the part then, or undefined where it was refused. */
  act(act: DocumentAct): Promise<Path | undefined> {
    const done = this.acts.then(() => this.perform(act));
    this.acts = done.catch(() => undefined);
    return done;
  }

  private async perform(act: DocumentAct, how?: { readonly on: boolean }): Promise<Path | undefined> {
    const typed = how !== undefined;
    const { editor } = this;
    const now = editor.view?.state.doc.toString() ?? this.state.text;
    const editing = engine.definition.edit(now, act);
    const looking = this.lookAhead();
    const made = await editing;
    if ('refused' in made) {
      this.store.setState({ refused: made.refused });
      return undefined;
    }
    const write = (): Path | undefined => {
      // Somebody has typed into the text meanwhile: that counts, and the act is not done.
      if (editor.view?.state.doc.toString() !== now) return undefined;
      editor.applyEdits(made.changes, { typed, ...how });
      this.store.setState((state) => ({ refused: '', ...(!typed && { turned: state.turned + 1 }) }));
      return made.path;
    };
    if (!looking) return write();
    return new Promise((resolve, reject) => {
      const own = (): void => {
        try {
          resolve(write());
        } catch (error) {
          reject(error as Error);
        }
      };
      this.unwritten = own;
      setTimeout(() => this.unwritten === own && this.writeMade(), LATEST);
    });
  }

  private writeMade(): void {
    const write = this.unwritten;
    this.unwritten = undefined;
    write?.();
  }

  /** A value that is being typed: only the newest is written, and all of it is one step of undo; with `on`, of one movement, however slow. */
  type(path: Path, value: Plain, { on = false } = {}): void {
    if (this.waiting && samePath(this.waiting.path, path)) {
      // In place: it stays the newest also when something else is typed before it is written.
      this.waiting.value = value;
      return;
    }
    const own = { path, value };
    this.waiting = own;
    this.store.setState({ typing: true });
    this.acts = this.acts.then(async () => {
      if (this.waiting === own) this.waiting = undefined;
      await this.perform({ kind: 'set', path, value: own.value }, { on }).catch(() => undefined);
      if (!this.waiting) this.store.setState({ typing: false });
    });
  }

  /** What was typed and done is in the text, and the newest look is of it: for acts that choose what is still free. */
  async settled(): Promise<void> {
    await this.acts;
    const fresh = ({ look, text }: DefiningState): boolean => look?.text === text;
    if (fresh(this.state)) return;
    await new Promise<void>((resolve) => {
      const stop = this.store.subscribe((state) => {
        if (!fresh(state)) return;
        stop();
        resolve();
      });
    });
  }

  turn(way: 'undo' | 'redo'): void {
    if (this.editor.turn(way)) this.store.setState((state) => ({ turned: state.turned + 1, refused: '' }));
  }

  choose(path: Path, form = 0): void {
    this.store.setState({ chosen: path, form, refused: '' });
    if (path[0] === 'instructions') this.look();
    if (this.state.face === 'text') this.showChosen();
  }

  show(face: Face): void {
    if (face === this.state.face) return;
    if (face === 'parts') this.chooseAtCursor();
    this.store.setState((state) => ({ face, turned: state.turned + 1 }));
    if (face === 'text') this.showChosen();
  }

  /** To the part that a problem stands in, on the face that is open. */
  goTo({ path, start, end }: PlacedProblem): void {
    if (this.state.face === 'text') this.editor.goToSpan(start, end);
    else this.choose(...chosenFor(path));
  }

  give(mnemonic: string, form: number, given: Given): void {
    const list = [...(this.state.given[mnemonic] ?? [])];
    for (let at = list.length; at < form; at++) list[at] = NOTHING_GIVEN;
    list[form] = given;
    this.store.setState((state) => ({ given: { ...state.given, [mnemonic]: list } }));
    this.look();
  }

  /** The part that is chosen, and the text at it. */
  private showChosen(): void {
    const { chosen, look } = this.state;
    const span = placesOf(look?.outline ?? []).find(({ part }) => samePath(part.path, chosen.slice(0, 2)))?.span;
    const before = this.editor.view?.state;
    const go = (): void => {
      const now = this.editor.view?.state;
      // Whoever has begun to write meanwhile is not taken elsewhere.
      if (!before || now?.doc !== before.doc || !now.selection.eq(before.selection)) return;
      if (span) this.editor.goToSpan(span.start, span.end);
      else this.editor.focus();
    };
    // Once the editor stands there and has been measured.
    requestAnimationFrame(() => requestAnimationFrame(() => requestAnimationFrame(go)));
  }

  private chooseAtCursor(): void {
    const at = this.editor.view?.state.selection.main.from ?? 0;
    const [found] = placesOf(this.state.look?.outline ?? [])
      .filter(({ span }) => span.start <= at)
      .sort((a, b) => b.span.start - a.span.start);
    if (found && !begins(this.state.chosen, found.part.path)) this.choose(found.part.path);
  }

  /** Looks at the newest text; never at two at a time. */
  private look(): void {
    if (this.looking) this.again = true;
    else void this.looks(() => this.state.text);
  }

  /** Looks at the text that an act is just being made into, while it is written here; not where others have to be fetched for it. */
  private lookAhead(): boolean {
    if (this.looking || isBased(this.state.text)) return false;
    void this.looks(() => undefined);
    return true;
  }

  /** Looks, and again for as long as there is something newer. `first`: undefined for what the last act makes of its text. */
  private async looks(first: () => string | undefined): Promise<void> {
    this.looking = true;
    try {
      for (let text = first(); ; text = this.state.text) {
        this.again = false;
        const { chosen, given } = this.state;
        const seen = await this.lookAt(text, chosen, given);
        if (this.closed) return;
        const { state } = this;
        if (!this.again || (seen.text === state.text && chosen === state.chosen && given === state.given)) return;
      }
    } finally {
      this.looking = false;
    }
  }

  private async lookAt(text: string | undefined, chosen: Path, given: DefiningState['given']): Promise<Look> {
    const mnemonic = chosen[0] === 'instructions' ? String(chosen[1]) : undefined;
    if (text !== undefined && isBased(text)) await engine.texts.setBases(await baseTexts(text).catch(() => ({})));
    const trying = mnemonic === undefined ? undefined : { mnemonic, given: given[mnemonic] ?? [] };
    const { number, patch } = await engine.definition.lookAgain(text, trying, this.held.number);
    this.writeMade();
    const look = patched<Look>(this.held.look, patch);
    this.held = { number, look: { ...this.held.look, ...look } };
    if (!this.closed)
      this.store.setState((state) => ({
        ...{ look, sound: look.machine || look.clashing ? look : state.sound, outline: look.outline ?? state.outline },
      }));
    return look;
  }
}

const isBased = (text: string): boolean => /^based on:/m.test(text);

/** The chosen part and form for a place in a document. */
function chosenFor(path: Path): [path: Path, form: number] {
  const [first, second, forms, form] = path;
  const single: Readonly<Record<string, string>> = {
    word: 'machine',
    title: 'machine',
    language: 'machine',
    'based on': 'machine',
    'begins at': 'machine',
  };
  if (first === undefined) return [['machine'], 0];
  if (first === 'traps' && second === 'enter') return [['entry'], 0];
  if (second === undefined || ['cycle', 'ports', 'assembly', 'system', 'words', 'word'].includes(String(first)))
    return [[single[first] ?? first], 0];
  return [[first, second], forms === 'forms' && typeof form === 'number' ? form : 0];
}

/** Which machine it is, and its newest version; 0 while there is none. */
export const MachineContext = createContext({ id: '', version: 0 });
export const useMachineId = (): { readonly id: string; readonly version: number } => useContext(MachineContext);

export const DefiningContext = createContext<Defining | undefined>(undefined);

export function useDefining(): Defining {
  const defining = useContext(DefiningContext);
  if (!defining) throw new Error('There is no machine around.');
  return defining;
}

export const useDefined = <T>(select: (state: DefiningState) => T): T => useStore(useDefining().store, select);

/** What is selected; what it was as long as it says the same, for selections that are put together. */
export function useDefinedSame<T>(select: (state: DefiningState) => T): T {
  const { store } = useDefining();
  const [keep] = useState(() => keeper<T>());
  return useStore(store, (state) => keep(select(state)));
}

/** A value that is put together at each drawing, as what it was as long as it says the same. */
export function useSame<T>(value: T): T {
  const [keep] = useState(() => keeper<T>());
  return keep(value);
}

/** Gives back the last value for one that says the same. */
function keeper<T>(): (value: T) => T {
  let last: { readonly value: T; readonly said: string } | undefined;
  return (value) => {
    if (last && last.value === value) return value;
    const said = JSON.stringify(value) ?? '';
    if (last?.said === said) return last.value;
    last = { value, said };
    return value;
  };
}

/** The newest machine that could be drawn. */
export const machineIn = ({ sound }: DefiningState): Machine | undefined => sound?.machine ?? sound?.clashing;

/** How numbers of a machine are shown and read. */
export type Notation = Numerals & NumberRules;

/** That of the newest machine that could be drawn; hexadecimal bits while there is none. */
export function useNotation(): Notation {
  const radix = useDefined((state) => machineIn(state)?.radix ?? 2);
  const base = useDefined((state) => machineIn(state)?.base ?? 16);
  const suffixes = useDefined((state) => machineIn(state)?.assembly.suffixes ?? DECIMAL.suffixes);
  return useMemo(() => ({ radix, base, suffixes }), [radix, base, suffixes]);
}

/** A function that stays the same one at each drawing, and does what the newest does. */
export function useSteady<Given extends readonly unknown[]>(act: (...given: Given) => void): (...given: Given) => void {
  const newest = useRef(act);
  newest.current = act;
  return useCallback((...given: Given) => newest.current(...given), []);
}

/** The value at a path; undefined where there is none. */
export const plainAt = (value: Plain | undefined, path: Path): Plain | undefined =>
  path.reduce<Plain | undefined>((node, each) => {
    if (node === undefined || typeof node === 'string') return undefined;
    return Array.isArray(node)
      ? (node as readonly Plain[])[Number(each)]
      : Object.hasOwn(node, each)
        ? (node as Readonly<Record<string, Plain>>)[String(each)]
        : undefined;
  }, value);

/** A text at a path; '' where there is none. */
export function textAt(value: Plain | undefined, path: Path): string {
  const found = plainAt(value, path);
  return typeof found === 'string' ? found : '';
}

/** Problems of the newest look that stand in a part. */
export const problemsIn = (look: Look | undefined, path: Path): readonly PlacedProblem[] =>
  (look?.problems ?? []).filter((each) => begins(each.path, path));
