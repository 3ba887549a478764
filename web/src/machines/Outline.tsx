/** The parts of a machine: chosen, added, moved, written once more, removed, renamed. Each act is a change of the text, and undone there. */
import { Box, chakra } from '@chakra-ui/react';
import { ArrowDown, ArrowUp, Copy, Pencil, Plus, Trash2 } from 'lucide-react';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
import { freeName, type OutlinePart } from '@zettak/core/machine/document/outline';
import { SECTIONS, SINGLES, type Section } from '@zettak/core/machine/document/shape';
import type { Plain } from '@zettak/core/machine/document/tree';
import type { Path } from '@zettak/core/machine/document/yaml';
import type { Machine } from '@zettak/core/machine/model/machine';
import { patternText } from '@zettak/core/machine/model/opcodeMap';
import type { DocumentAct } from '@zettak/core/session/definition';
import type { PlacedProblem } from '@zettak/core/session/protocol';
import { engine } from '../session/engine';
import { ActionMenu } from '../ui/ActionMenu';
import { Button } from '../ui/Button';
import { Hint, looks, Refusal } from '../ui/Panel';
import { machineIn, plainAt, samePath, useDefined, useDefining, useSame, useSteady } from './defining';
import { freshInstruction } from './freshInstruction';
import { NewName } from './NewName';

const keyOf = (path: Path): string => path.join(' / ');

const Dressed = chakra('div', {
  base: {
    ...{ display: 'flex', flexDirection: 'column', minHeight: '0', minWidth: '0' },
    '& > section': {
      ...{ display: 'flex', flexDirection: 'column', minHeight: '0', flex: '1', bg: 'paper' },
      ...{ borderRight: '1px solid', borderColor: 'line' },
    },
    '& .head': { ...looks.head, gap: '1px', minHeight: '40px', pe: '4px' },
    '& .head h2': { ...looks.title, me: 'auto' },
    // It is painted by itself, and of its rows only those in sight.
    '& .parts': { overflow: 'auto', flex: '1', pb: '8px', isolation: 'isolate' },
    '& [role=group]:first-of-type': { pt: '4px' },
    '& .parts header': { display: 'flex', alignItems: 'center', ps: '12px', pe: '4px', pt: '3px' },
    '& .parts header button': { p: '5px' },
    '& .parts h3': { fontSize: '12.5px', fontWeight: '700', color: 'ink3', flex: '1' },
    '& [role=group] > button[data-part]': {
      display: 'flex',
      gap: '8px',
      width: '100%',
      px: '12px',
      py: '1px',
      textAlign: 'left',
      fontSize: '13px',
      lineHeight: '20px',
      whiteSpace: 'nowrap',
      overflow: 'hidden',
      borderLeft: '3px solid transparent',
      contentVisibility: 'auto',
      containIntrinsicSize: 'auto 20px',
      cursor: 'pointer',
      _hover: { bg: 'sea' },
      // Inside: the next row would lie over it.
      _focusVisible: { outlineOffset: '-2px' },
      '&[aria-current=true]': { bg: 'sea2', borderColor: 'ink' },
      '& b': { fontFamily: 'mono', fontWeight: '600', flexShrink: '0' },
      '& span': { color: 'ink3', overflow: 'hidden', textOverflow: 'ellipsis', flex: '1' },
      '& i': { fontStyle: 'normal', fontFamily: 'mono', color: 'data', fontSize: '12.5px' },
      '& em': { fontStyle: 'normal', fontWeight: '700', color: 'problem' },
    },
    '& [role=group] > button[data-part][data-single] b': { fontFamily: 'body', fontWeight: '650' },
    '& [role=group] > button[data-part][data-inherited] b': { color: 'ink3', fontWeight: '400' },
  },
});

/** A row of the list: a part, or something that a document has once. */
interface Row {
  readonly path: Path;
  readonly part?: OutlinePart;
  readonly name: string;
  readonly says: string;
}

/** Its frame, and all that is dressed, stays as it is from key to key. */
export const Outline = memo(function Outline() {
  return (
    <Dressed>
      <List />
    </Dressed>
  );
});

function List() {
  const defining = useDefining();
  const look = useDefined((state) => state.look);
  const sound = useDefined((state) => state.sound);
  const chosen = useDefined((state) => state.chosen);
  const refused = useDefined((state) => state.refused);
  const [renaming, setRenaming] = useState(false);
  const list = useRef<HTMLDivElement>(null);
  const sections = useDefined((state) => state.outline);
  const broken = look !== undefined && look.outline === undefined;
  const machine = sound?.machine ?? sound?.clashing;
  const singles = SINGLES.filter(({ id, path }) => isThere(look?.document, id, path)).map(({ id, says }): Row => ({
    path: [id],
    name: says,
    says: '',
  }));
  const all: Row[] = [...singles, ...sections.flatMap((each) => each.parts)];
  const row = all.find((each) => samePath(each.path, chosen));
  const part = row && 'at' in row ? (row as OutlinePart) : undefined;
  // What it says of itself changes while somebody types.
  const acted = useSame(part && { path: part.path, at: part.at, of: part.of });

  const act = async (edit: DocumentAct): Promise<void> => {
    const siblings = all.filter((each) => each.path[0] === edit.path[0] && each.path.length === 2);
    const made = await defining.act(edit);
    if (!made) return;
    if (edit.kind !== 'remove') {
      defining.choose(made);
      // Also where a button of the list was pressed, whose work is done.
      backToChosen();
      return;
    }
    // The neighbour is next: whoever removes several goes on.
    const at = siblings.findIndex((each) => samePath(each.path, edit.path));
    defining.choose((siblings[at + 1] ?? siblings[at - 1])?.path ?? ['machine']);
  };
  const steadyAct = useSteady((edit: DocumentAct) => void act(edit));
  const beginRenaming = useSteady(() => setRenaming(true));
  const add = async ({ name, names, fresh, one }: Section): Promise<void> => {
    await defining.settled();
    const { look: newest } = defining.state;
    const taken = Object.keys((plainAt(newest?.document, [name]) as object | undefined) ?? {});
    const free =
      names.find((each) => !taken.some((other) => other.toLowerCase() === each.toLowerCase())) ?? freeName(names[0] ?? one, taken);
    const value =
      name === 'instructions' ? freshInstruction(free, newest?.document, machineIn(defining.state)) : fresh(machine?.radix === 10);
    const made = await defining.act({ kind: 'insert', path: [name, free], value });
    if (made) {
      defining.choose(made);
      setRenaming(name !== 'faults' && name !== 'traps');
    }
  };
  const addSingle = async (id: string, path: Path): Promise<void> => {
    const value: Plain =
      id === 'entry' ? { phase: machine?.phases.at(-1) ?? 'Execute', ticks: '' } : id === 'ports' ? { name: 'PORT', count: '8' } : {};
    if (await defining.act({ kind: 'set', path: id === 'entry' ? ['traps', 'enter'] : path, value })) defining.choose([id]);
  };
  const focusChosen = (): void => list.current?.querySelector<HTMLElement>('[aria-current=true]')?.focus();
  /** To the chosen part, once it is drawn; whoever has gone on elsewhere meanwhile stays there. */
  const backToChosen = (): void => {
    requestAnimationFrame(() => {
      const { activeElement } = document;
      if (activeElement === document.body || activeElement?.closest('[data-testid=outline]')) focusChosen();
    });
  };
  // Focus stays on the part, wherever it stands after an act.
  useEffect(() => {
    if (!renaming && (list.current?.contains(document.activeElement) || document.activeElement === document.body)) focusChosen();
  }, [chosen, sections, renaming]);
  // So does sight; while its own fields are written into it stands where it stood, and nothing has to be laid out for that.
  const place = row ? all.indexOf(row) : -1;
  useEffect(() => {
    const held = list.current;
    if (!held?.contains(document.activeElement)) held?.querySelector('[aria-current=true]')?.scrollIntoView({ block: 'nearest' });
  }, [chosen, place, renaming]);
  const rename = async (name: string): Promise<void> => {
    if (!part) return;
    const now = defining.state.text;
    const made = await engine.definition.renamePart(now, part.path, name);
    if ('refused' in made) return defining.store.setState({ refused: made.refused });
    if (defining.state.text === now) defining.editor.applyEdits(made.changes);
    defining.renames = [...defining.renames, made.programs];
    setRenaming(false);
    defining.choose(made.path);
    backToChosen();
  };
  const key = (event: React.KeyboardEvent): void => {
    // What is typed into a name is not an act.
    if (renaming || (event.target as HTMLElement).dataset.part === undefined) return;
    const held = event.ctrlKey || event.metaKey;
    const letter = event.key.toLowerCase();
    if (!event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      const next = all[all.findIndex((each) => each === row) + (event.key === 'ArrowUp' ? -1 : 1)];
      if (next) defining.choose(next.path);
    } else if (event.key === 'Home' || event.key === 'End') defining.choose((event.key === 'Home' ? all[0] : all.at(-1))?.path ?? []);
    else if (event.key === 'Enter')
      document.querySelector<HTMLElement>('[data-part-editor] :is(input, select, textarea, .cm-content)')?.focus();
    else if (event.key === 'Insert' && !broken) {
      const section = SECTIONS.find((each) => each.name === chosen[0]);
      if (section) void add(section);
    } else if (!part || broken) return;
    else if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown'))
      void act({ kind: 'move', path: part.path, to: part.at + (event.key === 'ArrowUp' ? -1 : 1) });
    else if (event.key === 'F2') setRenaming(true);
    else if (event.key === 'Delete') void act({ kind: 'remove', path: part.path });
    else if (held && letter === 'd') void act({ kind: 'duplicate', path: part.path });
    else return;
    event.preventDefault();
  };
  const codes = useMemo(() => codesOf(machine), [machine]);
  const wrong = useMemo(() => wrongParts(look?.problems ?? []), [look]);
  const option = (each: Row | OutlinePart): React.ReactNode => {
    const own = 'at' in each ? each : undefined;
    const inherited = own !== undefined && own.place === undefined;
    return (
      <Option
        key={keyOf(each.path)}
        name={each.name}
        says={`${each.says}${inherited ? ' (inherited)' : own?.overrides ? ' (changed here)' : ''}`}
        at={keyOf(each.path)}
        code={each.path[0] === 'instructions' ? codes.get(String(each.path[1])) : undefined}
        selected={each === row}
        tab={each === row || (row === undefined && each === all[0])}
        wrong={wrong.has(keyOf(each.path.slice(0, 2)))}
        single={own === undefined}
        inherited={inherited}
      />
    );
  };
  /** The part that an event is about. */
  const rowAt = (event: React.SyntheticEvent): Row | OutlinePart | undefined => {
    const at = (event.target as HTMLElement).closest<HTMLElement>('[data-part]')?.dataset.part;
    return all.find((each) => keyOf(each.path) === at);
  };
  const drop = (event: React.DragEvent): void => {
    const goal = rowAt(event);
    const from = JSON.parse(event.dataTransfer.getData(DRAGGED) || '[]') as Path;
    if (goal && 'at' in goal && from[0] === goal.path[0] && from.length === 2 && !broken)
      void act({ kind: 'move', path: from, to: goal.at });
  };
  const lacks = (name: string): boolean => !sections.some((each) => each.name === name);
  const missing = useSame([
    ...SECTIONS.filter((each) => lacks(each.name)).map(({ name, one }) => ({ id: name.replace(' ', '-'), says: `A ${one}` })),
    ...SINGLES.filter(({ id, path }) => !isThere(look?.document, id, path)).map(({ id, says }) => ({ id, says })),
  ]);
  const steadyAdd = useSteady((section: Section) => void add(section));
  const steadyAddMissing = useSteady((id: string) => {
    const section = SECTIONS.find((each) => each.name.replace(' ', '-') === id);
    const single = SINGLES.find((each) => each.id === id);
    if (section) void add(section);
    else if (single) void addSingle(id, single.path);
  });
  return (
    <section aria-label="Parts of the machine" data-testid="outline" onKeyDown={key}>
      <header className="head">
        <h2>Parts</h2>
        <Acts part={broken ? undefined : acted} act={steadyAct} rename={beginRenaming} />
      </header>
      {broken && (
        <Hint as="p" px="12px" py="6px">
          The text has a mistake, so parts can be looked at only. It stands under Problems; mend it in the text.
        </Hint>
      )}
      {refused && (
        <Refusal role="alert" px="12px" py="4px">
          {refused}
        </Refusal>
      )}
      {renaming && part && !broken && (
        <NewName
          key={keyOf(part.path)}
          {...{ part, rename }}
          text={defining.state.text}
          cancel={() => {
            setRenaming(false);
            defining.store.setState({ refused: '' });
            backToChosen();
          }}
        />
      )}
      <div
        className="parts"
        ref={list}
        onClick={(event) => {
          const chosenRow = rowAt(event);
          if (!chosenRow) return;
          setRenaming(false);
          defining.choose(chosenRow.path);
        }}
        onDragStart={(event) => {
          const dragged = rowAt(event);
          if (dragged) event.dataTransfer.setData(DRAGGED, JSON.stringify(dragged.path));
        }}
        onDragOver={(event) => rowAt(event) && event.dataTransfer.types.includes(DRAGGED) && event.preventDefault()}
        onDrop={drop}
      >
        <div role="group" aria-label="The whole">
          {singles.map(option)}
        </div>
        {sections.map(({ name, parts }) => {
          const section = SECTIONS.find((each) => each.name === name);
          return (
            <div role="group" key={name} aria-label={section?.says ?? name}>
              {section && <SectionHead {...{ section, broken }} add={steadyAdd} />}
              {parts.map(option)}
            </div>
          );
        })}
        {missing.length > 0 && !broken && look && <MoreParts missing={missing} add={steadyAddMissing} />}
      </div>
    </section>
  );
}

interface SectionProps {
  readonly section: Section;
  readonly broken: boolean;
  readonly add: (section: Section) => void;
}

const SectionHead = memo(function SectionHead({ section, broken, add }: SectionProps) {
  return (
    <header>
      <h3>{section.says}</h3>
      <Button
        look="bare"
        aria-label={`New ${section.one}`}
        tip={`New ${section.one} (Insert)`}
        disabled={broken}
        onClick={() => add(section)}
        data-testid={`add-${section.name.replace(' ', '-')}`}
      >
        <Plus size={14} aria-hidden />
      </Button>
    </header>
  );
});

interface MoreProps {
  readonly missing: readonly { readonly id: string; readonly says: string }[];
  readonly add: (id: string) => void;
}

const MoreParts = memo(function MoreParts({ missing, add }: MoreProps) {
  const actions = missing.map((each) => ({ ...each, act: () => add(each.id) }));
  return (
    <Box px="12px" pt="8px">
      <ActionMenu label="More parts: what this machine has not yet" look="plain" actions={actions} testId="add-other">
        <Plus size={14} aria-hidden /> More parts
      </ActionMenu>
    </Box>
  );
});

const isThere = (document: Parameters<typeof plainAt>[0], id: string, path: Path): boolean =>
  path.length === 0 || plainAt(document, id === 'entry' ? ['traps', 'enter'] : path) !== undefined;

/** By mnemonic: the first cell of its first form. */
const codesOf = (machine: Machine | undefined): ReadonlyMap<string, string> =>
  new Map((machine?.forms ?? []).toReversed().map((form) => [form.mnemonic, patternText(machine!, form)]));

/** Parts in which something is wrong, by their paths. */
const wrongParts = (problems: readonly PlacedProblem[]): ReadonlySet<string> =>
  new Set(problems.flatMap((each) => (each.grade === 'error' ? [keyOf(each.path.slice(0, 1)), keyOf(each.path.slice(0, 2))] : [])));

interface OptionProps {
  readonly name: string;
  readonly says: string;
  /** The path as one text. */
  readonly at: string;
  readonly code: string | undefined;
  readonly selected: boolean;
  readonly tab: boolean;
  readonly wrong: boolean;
  readonly single: boolean;
  readonly inherited: boolean;
}

const DRAGGED = 'application/x-zettak-part';

/** Dragged onto a sibling it takes that one's place. Drawn anew only where something about it is another. */
const Option = memo(function Option({ name, says, at, code, selected, tab, wrong, single, inherited }: OptionProps) {
  return (
    <button
      type="button"
      tabIndex={tab ? 0 : -1}
      aria-current={selected}
      draggable={!single}
      title={says}
      data-part={at}
      {...(inherited && { 'data-inherited': '' })}
      {...(single && { 'data-single': '' })}
    >
      <b>{name === '' ? '(none)' : name}</b>
      <span>{says}</span>
      {wrong && <em aria-label="has an error">!</em>}
      {code && <i>{code}</i>}
    </button>
  );
});

interface ActsProps {
  readonly part: Pick<OutlinePart, 'path' | 'at' | 'of'> | undefined;
  readonly act: (edit: DocumentAct) => void;
  readonly rename: () => void;
}

/** What can be done with the chosen part. */
const Acts = memo(function Acts({ part, act, rename }: ActsProps) {
  const path = part?.path ?? [];
  const acts = [
    { words: 'Move up (Alt ↑)', Icon: ArrowUp, off: !part || part.at === 0, edit: { kind: 'move', path, to: (part?.at ?? 0) - 1 } },
    {
      words: 'Move down (Alt ↓)',
      Icon: ArrowDown,
      off: !part || part.at === part.of - 1,
      edit: { kind: 'move', path, to: (part?.at ?? 0) + 1 },
    },
    { words: 'Write once more (Ctrl D)', Icon: Copy, off: !part, edit: { kind: 'duplicate', path } },
    { words: 'Remove (Delete)', Icon: Trash2, off: !part, edit: { kind: 'remove', path } },
  ] as const;
  return (
    <>
      <Button
        look="tag"
        disabled={!part}
        onClick={rename}
        aria-label="Rename everywhere (F2)"
        tip="Rename everywhere (F2)"
        data-act="rename"
      >
        <Pencil size={15} aria-hidden />
      </Button>
      {acts.map(({ words, Icon, off, edit }) => (
        <Button key={words} look="tag" disabled={off} onClick={() => act(edit)} aria-label={words} tip={words} data-act={edit.kind}>
          <Icon size={15} aria-hidden />
        </Button>
      ))}
    </>
  );
});
