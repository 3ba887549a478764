/** Starts the page. Screens are loaded when they are opened. */
import './app/noEval';
import '@fontsource-variable/atkinson-hyperlegible-next/index.css';
import '@fontsource-variable/atkinson-hyperlegible-mono/index.css';
import { ChakraProvider } from '@chakra-ui/react';
import { CacheProvider } from '@emotion/react';
import { lazy, StrictMode, Suspense, type ComponentType } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter, HashRouter, matchPath, Navigate, Route, Routes } from 'react-router';
import { keepShell } from './app/keepShell';
import { useNewer } from './app/newer';
import { chooseMode, FOLLOWER, mode, STUDENT } from './app/mode';
import { useDoor } from './app/door';
import { forget, keep, kept, tabMemory } from './app/preferences';
import { followRoom } from './app/room';
import { Shell, startNight } from './app/Shell';
import { keptAnswers } from './documents/keptAnswers';
import { sessionClient } from './documents/workClient';
import { Boundary } from './ui/Boundary';
import { styleCache } from './ui/styleCache';
import { system } from './ui/theme';

interface Screen {
  readonly path: string;
  readonly title: string;
  /** As the subject of a sentence. */
  readonly what: string;
  readonly load: () => Promise<Loaded>;
}

interface Loaded {
  readonly default: ComponentType;
  /** Asks for what the screen will show, before it is drawn. */
  readonly begin?: (from: Readonly<Record<string, string | undefined>>) => void;
}

const SCREENS: readonly Screen[] = [
  {
    path: '/bench/:program?',
    title: 'Bench',
    what: 'The bench',
    load: () => import('./bench/BenchPage').then(({ BenchPage, begin }) => ({ default: BenchPage, begin })),
  },
  {
    path: '/machines/:machine/card',
    title: 'Reference card',
    what: 'The reference card',
    load: () => import('./card/CardPage').then(({ CardPage }) => ({ default: CardPage })),
  },
  {
    path: '/machines',
    title: 'Machines',
    what: 'The shelf of machines',
    load: () => import('./machines/MachinesShelf').then(({ MachinesShelf }) => ({ default: MachinesShelf })),
  },
  {
    path: '/machines/new',
    title: 'New machine',
    what: 'The start of a machine',
    load: () => import('./machines/StartPage').then(({ StartPage }) => ({ default: StartPage })),
  },
  {
    path: '/programs',
    title: 'Programs',
    what: 'The shelf of programs',
    load: () => import('./programs/ProgramsPage').then(({ ProgramsPage }) => ({ default: ProgramsPage })),
  },
  {
    path: '/trials/:program?',
    title: 'Trials',
    what: 'The trials',
    load: () => import('./trials/TrialsPage').then(({ TrialsPage, begin }) => ({ default: TrialsPage, begin })),
  },
  {
    path: '/trials/:program/sheet',
    title: 'Record sheet',
    what: 'The record sheet',
    load: () => import('./trials/SheetPage').then(({ SheetPage }) => ({ default: SheetPage })),
  },
  {
    path: '/class/:assignment?',
    title: 'Class',
    what: 'The class',
    load: () => import('./class/ClassPage').then(({ ClassPage }) => ({ default: ClassPage })),
  },
  {
    path: '/class/:assignment/pages',
    title: 'Pages to print',
    what: 'The pages',
    load: () => import('./class/PagesPage').then(({ PagesPage }) => ({ default: PagesPage })),
  },
  {
    path: '/machines/:machine',
    title: 'Machines',
    what: 'This screen',
    load: () => import('./machines/MachinesPage').then(({ MachinesPage }) => ({ default: MachinesPage })),
  },
];

const WORK: readonly Screen[] = [
  ...SCREENS.filter(({ path }) => /^\/(bench|trials|machines\/:machine\/card)/.test(path)),
  {
    path: '/task',
    title: 'Task',
    what: 'The task',
    load: () => import('./work/TaskPage').then(({ TaskPage }) => ({ default: TaskPage })),
  },
];

/** Whoever may not ask for anything is asked for the passphrase first. */
const SIGN_IN: Screen = {
  path: '/*',
  title: 'Passphrase',
  what: 'The door',
  load: () => import('./access/SignIn').then(({ SignIn }) => ({ default: SignIn })),
};

/** Ends the session; nothing that was seen in it stays in this browser. What is not saved yet is kept until it is. */
async function signOut(): Promise<void> {
  await sessionClient.close();
  keep('closed', 'yes');
  tabMemory.clear();
  await keptAnswers().forget();
  location.assign('/');
}

startNight();
followRoom();
// What will be shown is fetched while it is asked who is there: it comes in one go, and is not laid out twice.
for (const font of ['Next', 'Mono']) void document.fonts.load(`16px "Atkinson Hyperlegible ${font} Variable"`);
const first = SCREENS.map((each) => ({ ...each, found: matchPath(each.path, location.pathname) })).find(({ found }) => found);
const loaded = first?.load().catch(() => undefined);
const folder = document.querySelector<HTMLMetaElement>('meta[name=zettak-lesson]')?.content;
const work = folder !== undefined ? undefined : /^\/w\/[a-z0-9-]{1,80}(?=\/|$)/.exec(location.pathname)?.[0];
if (work !== undefined) {
  chooseMode(STUDENT);
  await (await import('./work/opening')).openWork(work.slice(3));
}
if (folder !== undefined) {
  chooseMode(STUDENT);
  await (await import('./work/opening')).openFolder(folder);
}
const follows = folder === undefined && /^\/f(\/|$)/.test(location.pathname);
if (follows) {
  chooseMode(FOLLOWER);
  await (await import('./bench/sharing/follow')).beginFollowing();
}
const student = follows || work !== undefined || folder !== undefined;
// Without an answer the door is as it was last.
const door = student ? undefined : await sessionClient.state().catch(() => ({ guarded: false, open: kept('closed') !== 'yes' }));
const closed = door?.open === false;
if (door?.guarded && door.open) useDoor.setState({ signOut });
const screens = (closed ? [SIGN_IN] : student ? WORK : SCREENS).map((each) => ({ ...each, Page: lazy(each.load) }));

if (closed) {
  keep('closed', 'yes');
  void keptAnswers().forget();
} else forget('closed');
if (!student && !closed) void loaded?.then((screen) => screen?.begin?.(first?.found?.params ?? {}));

keepShell((takeOver) => useNewer.setState({ takeOver }));

/** In a folder of any file server there is one page; elsewhere each screen has an address of its own. */
const Paths = ({ children }: { children: React.ReactNode }) =>
  folder !== undefined ? (
    <HashRouter>{children}</HashRouter>
  ) : (
    <BrowserRouter {...((work ?? (follows ? '/f' : undefined)) !== undefined && { basename: work ?? '/f' })}>{children}</BrowserRouter>
  );

const styles = styleCache();

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <CacheProvider value={styles}>
      <ChakraProvider value={system}>
        <Paths>
          <Routes>
            {screens.map(({ path, title, what, Page }) => (
              <Route
                key={path}
                path={path}
                element={
                  <Boundary key={path} what={what}>
                    <Suspense fallback={<Shell title={title}>{null}</Shell>}>
                      <Page />
                    </Suspense>
                  </Boundary>
                }
              />
            ))}
            <Route path="*" element={<Navigate to={mode().first} replace />} />
          </Routes>
        </Paths>
      </ChakraProvider>
    </CacheProvider>
  </StrictMode>,
);
