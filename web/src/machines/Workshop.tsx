/** One machine as its document: edited, checked while it is typed, saved as versions, which the bench then offers. */
import { Box, Grid } from '@chakra-ui/react';
import { useCallback, useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import type { DocumentDetail } from '@zettak/api/documents';
import { firstProgram } from '@zettak/core/assembler/assist/firstProgram';
import type { MachineCheck } from '@zettak/core/session/protocol';
import { kept } from '../app/preferences';
import { baseTexts } from '../documents/baseTexts';
import { client } from '../documents/client';
import { Draft, type SaveState } from '../documents/drafts';
import { ConflictBar, SaveMark } from '../documents/SaveMark';
import { EditorHandle } from '../editor/handle';
import { engine } from '../session/engine';
import { Boundary } from '../ui/Boundary';
import { Button } from '../ui/Button';
import { Hint, Panel, PanelHead, PanelTitle } from '../ui/Panel';
import { DocumentEditor } from './DocumentEditor';
import { Findings } from './Findings';
import { Outline } from './Outline';
import { documentName } from '@zettak/core/machine/document/name';

/** `duplicate` makes another machine of the text, and goes there. */
interface WorkshopProps {
  readonly document: DocumentDetail;
  readonly duplicate: (text: string) => Promise<void>;
  /** A version was kept: lists call the machine as its document does now. */
  readonly saved: () => void;
}

export function Workshop({ document, duplicate, saved }: WorkshopProps) {
  const navigate = useNavigate();
  const [editor] = useState(() => new EditorHandle());
  const [saveState, setSaveState] = useState<SaveState>({ kind: 'saved' });
  const [draft, setDraft] = useState<Draft>();
  const [text, setText] = useState(document.draft);
  const [taken, setTaken] = useState(0);
  const [check, setCheck] = useState<MachineCheck & { readonly text: string }>();
  const [version, setVersion] = useState(document.versions.at(-1)?.number ?? 0);
  const [said, setSaid] = useState('');

  useEffect(() => {
    let live = true;
    const opened = Draft.open('machine', document, (state) => live && setSaveState(state));
    void opened.then((made) => {
      if (!live) return;
      setDraft(made);
      setText(made.text);
      setTaken((each) => each + 1);
    });
    return () => {
      live = false;
      void opened.then((made) => made.close());
    };
  }, [document]);
  useEffect(() => {
    let live = true;
    void baseTexts(text)
      .then((bases) => engine.texts.setBases(bases))
      .catch(() => undefined)
      .then(() => engine.texts.checkMachine(text))
      .then((each) => live && setCheck({ ...each, text }));
    return () => {
      live = false;
    };
  }, [text]);

  const change = useCallback(
    (now: string) => {
      setText(now);
      setSaid('');
      draft?.change(now);
    },
    [draft],
  );
  const save = useCallback(async (): Promise<void> => {
    if (!draft) return;
    try {
      await draft.flush();
      const kept = await client.keepVersion('machine', draft.id, draft.revision);
      setSaid(kept.number === version ? `Nothing has changed since version ${version}.` : `Saved as version ${kept.number}.`);
      setVersion(kept.number);
      saved();
    } catch (error) {
      setSaid(`No version was made. ${(error as Error).message}`);
    }
  }, [draft, version, saved]);

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
          text: firstProgram(check?.machine, document.name, { tells: true }),
          machine: document.id,
        }));
      await navigate(`/bench/${program.id}`);
    } catch (error) {
      setSaid((error as Error).message);
    }
  };

  const errors = check?.problems.filter((each) => each.grade === 'error').length ?? 0;
  return (
    <Grid templateColumns="212px 1fr minmax(300px, 28vw)" height="100%">
      <Boundary what="The list of parts">
        <Outline text={text} editor={editor} />
      </Boundary>
      <Panel label="Machine document" className="document" borderRight="1px solid" borderColor="line">
        <PanelHead minHeight="40px">
          <PanelTitle>{documentName(text) ?? document.name}</PanelTitle>
          <Hint data-testid="version">{version > 0 ? `version ${version}` : 'no version yet'}</Hint>
          <SaveMark state={saveState} />
          <Box as="span" ms="auto" fontWeight="600" fontSize="13px" role="status" data-testid="said">
            {said}
          </Box>
          <Button
            onClick={() => void navigate(`/machines/${document.id}/card`)}
            disabled={version === 0 && errors > 0}
            data-testid="open-card"
          >
            Card
          </Button>
          <Button onClick={() => void duplicate(text)}>Duplicate</Button>
          <Button
            look="strong"
            onClick={() => void save()}
            disabled={errors > 0}
            title={errors > 0 ? 'A version needs a document without errors; the draft is kept.' : 'Save a version (Ctrl S)'}
            data-testid="save-version"
          >
            Save a version
          </Button>
          <Button onClick={() => void openBench()} data-testid="open-bench">
            Open the bench
          </Button>
        </PanelHead>
        <ConflictBar state={saveState} draft={draft} take={(theirs) => (setText(theirs), setTaken((each) => each + 1))} />
        <Boundary what="The document">
          {draft && <DocumentEditor {...{ text, taken, check, change, save, editor }} name={`machine.${document.id}`} />}
        </Boundary>
      </Panel>
      <Boundary what="What the machine amounts to">
        <Findings {...{ check, errors, editor }} />
      </Boundary>
    </Grid>
  );
}
