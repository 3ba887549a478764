/** One machine that is being defined: its parts and its text, checked and tried at every change, saved as versions, which the bench then offers. */
import { Box, Flex, Grid } from '@chakra-ui/react';
import { Redo2, Undo2 } from 'lucide-react';
import { memo, useCallback, useEffect, useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { createStore, useStore, type StoreApi } from 'zustand';
import type { DocumentDetail } from '@zettak/api/documents';
import { firstProgram } from '@zettak/core/assembler/assist/firstProgram';
import { documentName } from '@zettak/core/machine/document/name';
import { kept } from '../app/preferences';
import { client } from '../documents/client';
import { Draft, type SaveState } from '../documents/drafts';
import { ConflictBar, SaveMark } from '../documents/SaveMark';
import { Difference, type Differing } from '../editor/Difference';
import { EditorHandle } from '../editor/handle';
import { Boundary } from '../ui/Boundary';
import { Button } from '../ui/Button';
import { Hint, Panel, PanelHead, PanelTitle } from '../ui/Panel';
import { Segments } from '../ui/Segments';
import { Defining, DefiningContext, MachineContext, useDefined, useDefining } from './defining';
import { DocumentEditor } from './DocumentEditor';
import { Findings } from './Findings';
import { Outline } from './Outline';
import { KeyList } from './KeyList';
import { PartEditor } from './PartEditor';
import { meaningOf, SaveVersion, type Meaning } from './SaveVersion';

/** `duplicate` makes another machine of the text, and goes there. */
interface WorkshopProps {
  readonly document: DocumentDetail;
  readonly duplicate: (text: string) => Promise<void>;
  /** A version was kept: lists call the machine as its document does now. */
  readonly saved: () => void;
}

/** What was typed and is not saved comes first. */
export function Workshop({ document, duplicate, saved }: WorkshopProps) {
  const [opened, setOpened] = useState<{ defining: Defining; draft: Draft }>();
  const [saving] = useState(() => createStore<SaveState>(() => ({ kind: 'saved' })));
  useEffect(() => {
    let live = true;
    // The same is told at every key press.
    const told = (state: SaveState): void => {
      if (state.kind !== 'saving' || saving.getState().kind !== 'saving') saving.setState(state, true);
    };
    const opening = Draft.open('machine', document, (state) => live && told(state));
    const made = opening.then((draft) => {
      const defining = new Defining(new EditorHandle(), draft.text);
      defining.onText = (text) => draft.change(text);
      if (live) setOpened({ defining, draft });
      else defining.close();
      return { defining, draft };
    });
    return () => {
      live = false;
      void made.then(({ defining, draft }) => {
        defining.close();
        draft.close();
      });
    };
  }, [document, saving]);
  if (!opened) return null;
  return (
    <DefiningContext value={opened.defining}>
      <Bench {...{ document, duplicate, saved, saving }} draft={opened.draft} />
    </DefiningContext>
  );
}

interface BenchProps extends WorkshopProps {
  readonly draft: Draft;
  readonly saving: StoreApi<SaveState>;
}

function Bench({ document, duplicate, saved, saving, draft }: BenchProps) {
  const defining = useDefining();
  const navigate = useNavigate();
  const face = useDefined((state) => state.face);
  const [taken, setTaken] = useState(0);
  const [version, setVersion] = useState(document.versions.at(-1)?.number ?? 0);
  const [said, setSaid] = useState('');
  const name = useDefined((state) => documentName(state.text));
  // What was said is of the text as it was.
  useEffect(() => defining.store.subscribe((now, before) => now.text !== before.text && setSaid('')), [defining]);

  const [differing, setDiffering] = useState<Differing>();
  const [help, setHelp] = useState(false);
  const [meaning, setMeaning] = useState<Meaning>();
  const keepVersion = useCallback(
    async (follow: Meaning['programs']): Promise<void> => {
      await draft.flush();
      const kept = await client.keepVersion('machine', draft.id, draft.revision);
      for (const { program, followed } of follow) {
        const { revision } = await client.saveDraft('program', program.id, { text: followed, revision: program.revision });
        await client.keepVersion('program', program.id, revision);
      }
      defining.renames = [];
      const also =
        follow.length > 0 ? ` ${follow.length === 1 ? 'One program follows' : `${follow.length} programs follow`} its new names.` : '';
      setSaid(`Saved as version ${kept.number}.${also}`);
      setVersion(kept.number);
      saved();
    },
    [draft, saved, defining],
  );
  /** The first version is kept at once; before a later one it is told what that means. */
  const save = useCallback(async (): Promise<void> => {
    try {
      if (version === 0) return await keepVersion([]);
      const found = await meaningOf(document.id, version, defining);
      if (found === 'the same') setSaid(`Nothing has changed since version ${version}.`);
      else if ('refused' in found) setSaid(`No version was made. ${found.refused}`);
      else setMeaning(found);
    } catch (error) {
      setSaid(`No version was made. ${(error as Error).message}`);
    }
  }, [document.id, version, defining, keepVersion]);

  /** To a program of this machine: the one opened last, the first, or a new one. */
  const openBench = async (): Promise<void> => {
    try {
      const programs = (await client.list('program')).filter((each) => each.machine === document.id);
      const last = kept('program');
      const found = programs.find((each) => each.id === last) ?? programs[0];
      if (!found && version === 0) return setSaid('Save a version first: the bench works with versions only.');
      const name = `first on ${document.name}`.slice(0, 60);
      const program =
        found ??
        (await client.create('program', {
          name,
          text: firstProgram(defining.state.sound?.machine, document.name, { tells: true }),
          machine: document.id,
        }));
      await navigate(`/bench/${program.id}`);
    } catch (error) {
      setSaid((error as Error).message);
    }
  };
  // Wherever the focus is, but where one writes.
  useEffect(() => {
    const listen = (event: KeyboardEvent): void => {
      if (event.key === '?' && !(event.target as HTMLElement).closest('input, textarea, select, [contenteditable=true]')) setHelp(true);
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, []);
  const key = (event: React.KeyboardEvent): void => {
    // From a part back to the list of parts.
    if (event.key === 'Escape' && (event.target as HTMLElement).closest('[data-part-editor]')) {
      // Offered names are closed first.
      if (globalThis.document.querySelector('.cm-tooltip-autocomplete')) return;
      globalThis.document.querySelector<HTMLElement>('[data-part][aria-current=true]')?.focus();
      return;
    }
    if (!event.ctrlKey && !event.metaKey) return;
    const letter = event.key.toLowerCase();
    if (letter === 's') void save();
    else if (letter === 'e' && event.altKey) defining.show(face === 'parts' ? 'text' : 'parts');
    // The text has its own keys; everywhere else undo is that of the text.
    else if ((letter === 'z' || letter === 'y') && !(event.target as HTMLElement).closest('.document'))
      defining.turn(letter === 'y' || event.shiftKey ? 'redo' : 'undo');
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const openHelp = useCallback(() => setHelp(true), []);
  const identity = useMemo(() => ({ id: document.id, version }), [document.id, version]);
  return (
    <MachineContext value={identity}>
      <Grid templateColumns="232px minmax(0, 1fr) minmax(300px, 26vw)" height="100%" onKeyDownCapture={key}>
        <Boundary what="The list of parts">
          <Outline />
        </Boundary>
        <Panel label={face === 'parts' ? 'Part' : 'Machine document'} borderRight="1px solid" borderColor="line">
          <PanelHead minHeight="40px" gap="6px" flexWrap="wrap" py="3px">
            <PanelTitle data-testid="machine-name">{name ?? document.name}</PanelTitle>
            <Hint data-testid="version">{version > 0 ? `version ${version}` : 'no version yet'}</Hint>
            <Saving store={saving}>{(state) => <SaveMark state={state} />}</Saving>
            <Segments label="Face" value={face} choose={(to) => defining.show(to)} options={['parts', 'text']} testId="face" />
            <Turning help={openHelp} />
            <Flex ms="auto" gap="6px" align="center">
              <Acts
                {...{ hasVersion: version > 0, save, openBench }}
                openCard={() => void navigate(`/machines/${document.id}/card`)}
                duplicate={() => void duplicate(defining.state.text)}
              />
            </Flex>
            <Box as="span" width="100%" fontWeight="600" fontSize="13px" role="status" data-testid="said" _empty={{ display: 'none' }}>
              {said}
            </Box>
          </PanelHead>
          <Saving store={saving}>
            {(state) => (
              <ConflictBar
                {...{ state, draft }}
                compare={(mine, theirs) => setDiffering({ mine, theirs })}
                take={(theirs) => {
                  defining.changed(theirs);
                  setTaken((each) => each + 1);
                }}
              />
            )}
          </Saving>
          <Box flex="1" minHeight="0" display={face === 'text' ? 'flex' : 'none'} flexDirection="column" className="document">
            <Boundary what="The document">
              <DocumentEditor key={taken} save={save} name={`machine.${document.id}`} />
            </Boundary>
          </Box>
          <Difference texts={differing} close={() => setDiffering(undefined)} />
          {meaning && <SaveVersion meaning={meaning} save={keepVersion} close={() => setMeaning(undefined)} />}
          {face === 'parts' && (
            <Box flex="1" minHeight="0" overflow="auto" bg="sea" px="14px" py="12px" data-testid="part-editor">
              <Boundary what="The editor of this part">
                <PartEditor />
              </Boundary>
            </Box>
          )}
        </Panel>
        <KeyList open={help} close={() => setHelp(false)} />
        <Boundary what="What the machine amounts to">
          <Findings />
        </Boundary>
      </Grid>
    </MachineContext>
  );
}

/** What tells of saving is drawn anew when that changes; the rest of the workshop is not. */
function Saving({ store, children }: { store: StoreApi<SaveState>; children: (state: SaveState) => React.ReactNode }) {
  return children(useStore(store));
}

interface ActsProps {
  readonly hasVersion: boolean;
  readonly openCard: () => void;
  readonly duplicate: () => void;
  readonly save: () => Promise<void>;
  readonly openBench: () => Promise<void>;
}

/** What can be done with the machine as it stands; only what errors forbid is drawn anew when they come and go. */
function Acts({ hasVersion, openCard, duplicate, save, openBench }: ActsProps) {
  return (
    <>
      <Broken>
        {(broken) => (
          <Button onClick={openCard} disabled={!hasVersion && broken} data-testid="open-card">
            Card
          </Button>
        )}
      </Broken>
      <Button onClick={duplicate}>Duplicate</Button>
      <Broken>
        {(broken) => (
          <Button
            look="strong"
            onClick={() => void save()}
            disabled={broken}
            title={broken ? 'A version needs a document without errors; the draft is kept.' : 'Save a version (Ctrl S)'}
            data-testid="save-version"
          >
            Save a version
          </Button>
        )}
      </Broken>
      <Button onClick={() => void openBench()} title="To a program of this machine" data-testid="open-bench">
        Bench
      </Button>
    </>
  );
}

/** Draws what has to know whether the document has errors. */
function Broken({ children }: { children: (broken: boolean) => React.ReactNode }) {
  return children(useDefined((state) => state.look?.problems.some((each) => each.grade === 'error') ?? false));
}

/** Left alone whatever is typed. */
const Turning = memo(function Turning({ help }: { help: () => void }) {
  const defining = useDefining();
  return (
    <>
      <Button look="tag" onClick={() => defining.turn('undo')} aria-label="Undo (Ctrl Z)" tip="Undo (Ctrl Z)" data-testid="undo">
        <Undo2 size={15} aria-hidden />
      </Button>
      <Button look="tag" onClick={() => defining.turn('redo')} aria-label="Redo (Ctrl Y)" tip="Redo (Ctrl Y)" data-testid="redo">
        <Redo2 size={15} aria-hidden />
      </Button>
      <Button look="tag" onClick={help} aria-label="Keys (?)" tip="Keys (?)" data-testid="keys-help">
        ?
      </Button>
    </>
  );
});
