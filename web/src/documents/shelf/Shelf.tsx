/** A shelf of documents of one kind as cards: searched, opened, written once more, renamed, taken in and given out, removed and brought back. */
import { Box, chakra, Flex } from '@chakra-ui/react';
import { MoreVertical } from 'lucide-react';
import { useCallback, useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import type { DocumentSummary } from '@zettak/api/documents';
import type { Kind } from '@zettak/api/kinds';
import { ActionMenu, type Action } from '../../ui/ActionMenu';
import { Button } from '../../ui/Button';
import { Empty } from '../../ui/Empty';
import { Entry } from '../../ui/Field';
import { FileButton } from '../../ui/FileButton';
import { Fold } from '../../ui/Fold';
import { Hint, Notice, Outcome } from '../../ui/Panel';
import { Window } from '../../ui/Window';
import { client } from '../client';
import { Failure } from '../Failure';
import type { Taken } from './files';

const Grid = chakra('ul', {
  base: {
    display: 'grid',
    gridTemplateColumns: 'repeat(auto-fill, minmax(272px, 1fr))',
    gap: '12px',
    listStyle: 'none',
    px: '16px',
    py: '10px',
  },
});

const Card = chakra('li', {
  base: {
    position: 'relative',
    bg: 'paper',
    border: '1px solid',
    borderColor: 'line',
    borderRadius: '8px',
    px: '14px',
    pt: '10px',
    pb: '12px',
    display: 'flex',
    flexDirection: 'column',
    gap: '4px',
    minHeight: '138px',
    '&:focus-within, &:hover': { borderColor: 'edge' },
    '& h2 a': { fontSize: '17px', fontWeight: '700', color: 'ink', _hover: { textDecoration: 'underline' } },
    // The whole card is pressed, and is read by its name.
    '& h2 a::after': { content: '""', position: 'absolute', inset: '0' },
    '& button': { position: 'relative', zIndex: '1' },
  },
});

export interface ShelfProps {
  readonly kind: Extract<Kind, 'machine' | 'program'>;
  readonly documents: readonly DocumentSummary[] | undefined;
  /** Why it could not be looked what there is. */
  readonly failure: string | undefined;
  /** Looks again what there is. */
  readonly reload: () => void;
  readonly linkTo: (document: DocumentSummary) => string;
  /** What stands on a card below its name. */
  readonly body: (document: DocumentSummary) => React.ReactNode;
  /** What can be done with a document besides removing and renaming it. */
  readonly actions: (document: DocumentSummary) => readonly Action[];
  readonly rename: (document: DocumentSummary, name: string) => Promise<void>;
  /** Takes files in; what became of each. */
  readonly take: (files: readonly File[]) => Promise<readonly Taken[]>;
  readonly accept: string;
  /** Controls for all of the shelf, behind the search. */
  readonly controls?: React.ReactNode;
  readonly empty: { readonly title: string; readonly says: string };
}

export function Shelf({ kind, documents, failure, reload, linkTo, body, actions, rename, take, accept, controls, empty }: ShelfProps) {
  const [sought, setSought] = useState('');
  const [gone, setGone] = useState<DocumentSummary>();
  const [said, setSaid] = useState('');
  const [taken, setTaken] = useState<readonly Taken[]>([]);
  const [taking, setTaking] = useState(false);
  const [over, setOver] = useState(false);
  const [renaming, setRenaming] = useState<DocumentSummary>();
  const search = useRef<HTMLInputElement>(null);
  const found = (documents ?? []).filter((each) => each.name.toLowerCase().includes(sought.trim().toLowerCase()));

  const tell = (act: Promise<unknown>): void => void act.then(reload, (error: Error) => setSaid(error.message));
  const takeAll = async (files: readonly File[]): Promise<void> => {
    setTaking(true);
    setSaid('');
    try {
      setTaken(await take(files));
    } catch (error) {
      setSaid((error as Error).message);
    }
    setTaking(false);
    reload();
  };
  const remove = (document: DocumentSummary): void => {
    setSaid('');
    tell(
      client.remove(kind, document.id).then(() => {
        setGone(document);
        // The card goes away: the focus goes to where one goes on.
        search.current?.focus();
      }),
    );
  };
  return (
    <Flex
      direction="column"
      height="100%"
      bg="sea"
      outline={over ? '3px dashed' : undefined}
      outlineColor="address"
      outlineOffset="-6px"
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes('Files')) return;
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        setOver(false);
        if (event.dataTransfer.files.length === 0) return;
        event.preventDefault();
        void takeAll([...event.dataTransfer.files]);
      }}
      data-testid="shelf"
    >
      <Flex gap="8px" px="16px" py="9px" align="center" wrap="wrap" bg="paper" borderBottom="1px solid" borderColor="line">
        <Entry
          ref={search}
          type="search"
          width="240px"
          aria-label={`Search ${kind}s`}
          placeholder="Search"
          value={sought}
          onChange={(event) => setSought(event.target.value)}
          data-testid="search"
        />
        <Hint role="status" data-testid="found">
          {documents === undefined
            ? ''
            : sought
              ? `${found.length} of ${documents.length}`
              : `${documents.length} ${documents.length === 1 ? kind : `${kind}s`}`}
        </Hint>
        <Flex ms="auto" gap="8px" align="center" wrap="wrap">
          {controls}
          <FileButton
            words="Import files"
            label={`Import ${kind}s`}
            accept={accept}
            several
            take={(files) => void takeAll(files)}
            testId="import"
          />
        </Flex>
      </Flex>
      <Failure failure={failure} again={reload} />
      {said && (
        <Notice tone="problem" role="alert">
          {said}
        </Notice>
      )}
      {gone && (
        <Outcome role="status">
          {`“${gone.name}” was removed.`}
          <Button
            look="tone"
            onClick={() => {
              tell(client.bringBack(kind, gone.id));
              setGone(undefined);
            }}
            data-testid="undo-remove"
          >
            Undo
          </Button>
          <Hint>It stays below under “Removed” until it is deleted for good.</Hint>
          <Button look="link" onClick={() => setGone(undefined)}>
            Done
          </Button>
        </Outcome>
      )}
      {(taking || taken.length > 0) && (
        <Notice role="status" flexWrap="wrap">
          {taking ? (
            'Reading the files …'
          ) : (
            <>
              <chakra.ul listStyleType="none" flex="1" data-testid="taken">
                {taken.slice(0, 30).map((each, at) => (
                  <chakra.li key={at} color={each.ok ? 'ink' : 'problem'}>
                    <b>{each.file}</b>: {each.says}
                  </chakra.li>
                ))}
                {taken.length > 30 && <li>{`and ${taken.length - 30} more`}</li>}
              </chakra.ul>
              <Button onClick={() => setTaken([])}>Close</Button>
            </>
          )}
        </Notice>
      )}
      <Box flex="1" minHeight="0" overflow="auto">
        <Grid data-testid="cards">
          {found.map((each) => (
            <Card key={each.id} data-card={each.id}>
              <Flex gap="8px" align="baseline">
                <chakra.h2 flex="1" minWidth="0" overflowWrap="anywhere">
                  <Link to={linkTo(each)}>{each.name}</Link>
                </chakra.h2>
                <ActionMenu
                  label={`What can be done with ${each.name}`}
                  look="tag"
                  testId={`actions-${each.id}`}
                  actions={[
                    ...actions(each),
                    { id: 'rename', says: 'Rename …', act: () => setRenaming(each) },
                    { id: 'remove', says: 'Remove', act: () => remove(each) },
                  ]}
                >
                  <MoreVertical size={15} aria-hidden />
                </ActionMenu>
              </Flex>
              {body(each)}
            </Card>
          ))}
        </Grid>
        {documents?.length === 0 && (
          <Box px="20px">
            <Empty title={empty.title}>{empty.says}</Empty>
          </Box>
        )}
        {documents && documents.length > 0 && found.length === 0 && (
          <Box px="20px">
            <Empty title={`No ${kind} has “${sought}” in its name.`}>
              <Button look="link" onClick={() => setSought('')}>
                Show all
              </Button>
            </Empty>
          </Box>
        )}
        <Removed kind={kind} stamp={documents} tell={tell} />
      </Box>
      {renaming && <NewName document={renaming} close={() => setRenaming(undefined)} rename={(name) => tell(rename(renaming, name))} />}
    </Flex>
  );
}

function NewName({ document, rename, close }: { document: DocumentSummary; rename: (name: string) => void; close: () => void }) {
  const [name, setName] = useState(document.name);
  return (
    <Window title={`Another name for ${document.name}`} open close={close} closes="Cancel" testId="rename">
      <Flex
        as="form"
        gap="8px"
        onSubmit={(event: React.FormEvent) => {
          event.preventDefault();
          if (name.trim() !== '') rename(name.trim());
          close();
        }}
      >
        <Entry
          autoFocus
          room="wide"
          aria-label="Name"
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.target.value)}
          data-testid="rename-entry"
        />
        <Button type="submit" look="strong" disabled={name.trim() === ''}>
          Rename
        </Button>
      </Flex>
    </Window>
  );
}

/** What was removed: brought back, or deleted for good. */
function Removed({ kind, stamp, tell }: { kind: ShelfProps['kind']; stamp: unknown; tell: (act: Promise<unknown>) => void }) {
  const [removed, setRemoved] = useState<readonly DocumentSummary[]>([]);
  const [sure, setSure] = useState<string>();
  const look = useCallback(() => void client.removed(kind).then(setRemoved, () => undefined), [kind]);
  useEffect(look, [look, stamp]);
  if (removed.length === 0) return null;
  return (
    <Box px="16px" pb="16px">
      <Fold title={`Removed (${removed.length})`} testId="removed">
        <chakra.ul listStyleType="none" pt="6px" fontSize="13px">
          {removed.map((each) => (
            <chakra.li key={each.id} display="flex" gap="10px" alignItems="center" py="3px">
              <b>{each.name}</b>
              <Hint>{`removed ${(each.removedAt ?? '').slice(0, 10)}`}</Hint>
              <Button onClick={() => tell(client.bringBack(kind, each.id))}>Bring back</Button>
              {sure === each.id ? (
                <Button look="danger" onClick={() => tell(client.destroy(kind, each.id))} data-testid="destroy">
                  Delete for good, with all versions
                </Button>
              ) : (
                <Button look="link" onClick={() => setSure(each.id)}>
                  Delete …
                </Button>
              )}
            </chakra.li>
          ))}
        </chakra.ul>
      </Fold>
    </Box>
  );
}
