/** What the bench shows: mirrors the engine's views, the listing and the draft. Computes nothing the core could. */
import { create } from 'zustand';
import { CHECKS, type CheckCode } from '@zettak/core/assembler/check/checks';
import type { LanguageHelp } from '@zettak/core/assembler/assist/help';
import type { IncludedPart, ProgramSymbol, RoutineBorder, Row } from '@zettak/core/image/program';
import { courseKinds, type CourseKind, type DocumentDetail, type DocumentSummary } from '@zettak/api/documents';
import type { TickReport } from '@zettak/core/engine/meaning/report';
import type { Machine } from '@zettak/core/machine/model/machine';
import { client } from '../documents/client';
import { Draft, type SaveState } from '../documents/drafts';
import { engine, onFailure, onView } from '../session/engine';
import { afterPaint } from '../ui/follow';
import { keep, kept } from './kept';
import type { Pointed } from './PlaceMenu';
import { keepStops, readStops, withLines } from './stops';
import {
  isRunning,
  TOKENS_UP_TO,
  type BreakSpec,
  type Command,
  type Listing,
  type Speed,
  type StartingOver,
  type View,
} from '@zettak/core/session/protocol';

export type ValueBase = 'hex' | 'dec' | 'bin' | 'char';

/** The base in which a panel that shows this one reads numbers without a mark. */
export const BASE_READ: Readonly<Record<ValueBase, number>> = { hex: 16, dec: 10, bin: 2, char: 16 };
export const BASE_WORDS: Readonly<Record<number, string>> = { 2: 'binary', 10: 'decimal', 16: 'hex' };

interface Motion {
  readonly report: TickReport;
  readonly duration: number;
}

export interface BenchState {
  readonly programs: readonly DocumentSummary[];
  readonly program?: DocumentDetail;
  readonly machineName: string;
  readonly machineVersion: number;
  /** A newer version of the machine than the one on the bench. */
  readonly newerVersion?: number;
  readonly machine?: Machine;
  readonly source: string;
  readonly listing: Listing;
  /** The source that `listing` belongs to. */
  readonly listed: string;
  readonly view?: View;
  readonly motion?: Motion;
  readonly speed: Speed;
  readonly base: ValueBase;
  /** The memory that is shown; without one, the program's. */
  readonly space?: number | undefined;
  readonly message?: string;
  /** Something was done; until the next command. */
  readonly note?: string | undefined;
  /** Nothing was loaded, but a finished part could be. */
  readonly offersPart: boolean;
  /** The bench is set for writing: tools stand where the ticks are shown. */
  readonly writing: boolean;
  /** The ways of starting over are being offered. */
  readonly startingOver: boolean;
  /** Tools for the run stand there: stops, calls, devices, the past. */
  readonly controlling: boolean;
  /** Line of the cursor in the source, from 1. */
  readonly cursorLine: number;
  /** Names of the last text that had no errors. */
  readonly symbols: readonly ProgramSymbol[];
  /** Of the loaded program. */
  readonly routines: readonly RoutineBorder[];
  readonly help: LanguageHelp;
  readonly checksOff: readonly CheckCode[];
  readonly course: readonly DocumentDetail[];
  /** Lines given by a frame may be changed. */
  readonly unfrozen: boolean;
  /** A name that is being given another one. */
  readonly renaming?: { readonly name: string; readonly offset: number } | undefined;
  readonly failure?: string;
  /** The engine has made a mistake: the text of it. */
  readonly crash?: string | undefined;
  readonly saveState: SaveState;
  /** Lines with a breakpoint, as the editor holds them. */
  readonly breakpoints: readonly number[];
  /** Every breakpoint and print-point. */
  readonly stops: readonly BreakSpec[];
  /** A value that somebody asks about. */
  readonly pointed?: Pointed | undefined;
  /** Ticks after which a run stops by itself, as typed; empty: never. */
  readonly budget: string;
  /** Lines of the machine's system program that have cells. */
  readonly systemRows: readonly Row[];
  /** Cells that the loaded program keeps free: first and last place, by space. */
  readonly rooms: readonly { readonly space: number; readonly from: number; readonly to: number }[];
  /** Parts that the loaded program takes in. */
  readonly parts: readonly IncludedPart[];
  /** By space, labels of the loaded program by address. */
  readonly labels: readonly ReadonlyMap<number, string>[];
  /** By space, addresses of its data with their labels. */
  readonly dataLabels: readonly ReadonlyMap<number, string>[];
  readonly draft?: Draft;
  /** Counts up when the editor has to take `source` over. */
  readonly taken: number;
}

const WRITING = 'zettak.writing';
const CHECKS_OFF = 'zettak.checks-off';

/** Rubbish in the storage counts as every check on. */
function readChecksOff(): CheckCode[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(CHECKS_OFF) ?? '[]');
    return Array.isArray(kept) ? CHECKS.map((each) => each.code).filter((each) => kept.includes(each)) : [];
  } catch {
    return [];
  }
}

export const useBench = create<BenchState>()(() => ({
  programs: [],
  machineName: '',
  machineVersion: 0,
  source: '',
  listing: { rows: [], problems: [], base: 10 },
  listed: '',
  speed: 4,
  base: 'hex',
  saveState: { kind: 'saved' },
  breakpoints: [],
  stops: [],
  systemRows: [],
  parts: [],
  rooms: [],
  budget: '',
  labels: [],
  dataLabels: [],
  taken: 0,
  offersPart: false,
  writing: localStorage.getItem(WRITING) === 'yes',
  controlling: false,
  startingOver: false,
  cursorLine: 1,
  symbols: [],
  routines: [],
  help: { offers: [], names: [] },
  checksOff: readChecksOff(),
  course: [],
  unfrozen: false,
}));

const set = useBench.setState;
const get = useBench.getState;

// ---- views and motion ----

let arrival: ReturnType<typeof setTimeout> | undefined;
const stillness = window.matchMedia('(prefers-reduced-motion: reduce)');

/** Tokens travel first; only when they have arrived is the new view shown. The engine is told of each view that is. */
function takeView(view: View): void {
  keepRunSoon(view);
  land();
  const { speed } = get();
  const running = isRunning(view.status);
  const animates = view.moved && view.last && !stillness.matches && (!running || (speed !== 'full' && speed <= TOKENS_UP_TO));
  if (!animates || view.last!.transfers.length === 0) return show(view);
  const duration = running ? Math.min(650, 780 / (speed as number)) : 520;
  pendingView = view;
  set({ motion: { report: view.last!, duration } });
  arrival = setTimeout(land, duration);
}
let pendingView: View | undefined;

function show(view: View): void {
  set({ view, motion: undefined });
  afterPaint(() => void engine.shown());
}

/** The view whose tokens are under way is shown. */
function land(): void {
  clearTimeout(arrival);
  const view = pendingView;
  pendingView = undefined;
  if (view) show(view);
}

/** Tokens under way belong to a run that is given up. */
function forgetMotion(): void {
  clearTimeout(arrival);
  if (pendingView) void engine.shown();
  pendingView = undefined;
}

let subscribed = false;

// ---- opening ----

let opening = 0;

/** Opens a program with the newest version of its machine; without an id the one opened last, or the first. */
export async function openProgram(id: string | undefined): Promise<void> {
  const turn = ++opening;
  try {
    if (!subscribed) {
      subscribed = true;
      await onView(takeView);
      await onFailure((crash) => {
        forgetMotion();
        set({ crash });
      });
    }
    const programs = await client.list('program');
    const wanted = id ?? localStorage.getItem('zettak.program') ?? '';
    const found = programs.find((each) => each.id === wanted) ?? (id ? undefined : programs[0]);
    set({ programs });
    if (!found)
      return set({ failure: id ? `There is no program “${id}”. Choose another above.` : 'There is no program yet. Create one above.' });
    if (get().program?.id === found.id && get().machine) return await lookForNewerMachine();
    const [program, machine] = await Promise.all([client.get('program', found.id), client.get('machine', found.machine!)]);
    if (turn !== opening) return;
    get().draft?.close();
    const draft = new Draft('program', program.id, program, (saveState) => set({ saveState }));
    const stops = readStops(program.id);
    const breakpoints = stops.flatMap((each) => each.line ?? []);
    set({
      program,
      draft,
      source: draft.text,
      view: undefined,
      symbols: [],
      parts: [],
      offersPart: false,
      motion: undefined,
      breakpoints,
      stops,
      budget: kept('budget', program.id),
      pointed: undefined,
      note: undefined,
      space: undefined,
      saveState: { kind: 'saved' },
      message: undefined,
      failure: undefined,
      newerVersion: undefined,
      taken: get().taken + 1,
    });
    localStorage.setItem('zettak.program', program.id);
    const newest = machine.versions.at(-1)?.number ?? 0;
    const before = sessionStorage.getItem(runKey(program.id));
    await takeMachineVersion(machine.id, newest);
    if (before !== null && get().view) await putRunBack(before);
  } catch (error) {
    set({ failure: error instanceof Error ? error.message : String(error) });
  }
}

// ---- the run over a reload ----

/** A run is put back only if going through it again takes a moment. */
const MOST_TICKS_KEPT = 20_000_000;
const runKey = (program: string): string => `zettak.run.${program}`;
let keeping: ReturnType<typeof setTimeout> | undefined;

/** The run that stands still is kept for as long as this tab lives. */
function keepRunSoon({ status, ticks, inputs }: View): void {
  clearTimeout(keeping);
  const { program } = get();
  if (!program || isRunning(status)) return;
  if (ticks === 0 && inputs.length === 0) return sessionStorage.removeItem(runKey(program.id));
  if (ticks > MOST_TICKS_KEPT) return;
  keeping = setTimeout(() => {
    void engine.files.keepRun('').then((made) => {
      try {
        if ('text' in made && get().program?.id === program.id) sessionStorage.setItem(runKey(program.id), made.text);
      } catch {
        // No room: the run starts over after a reload, as it did before.
      }
    });
  }, 100);
}

/** Puts the run of this program back where it stood, if it is the same program and machine. */
async function putRunBack(text: string): Promise<void> {
  let kept: unknown;
  try {
    kept = (JSON.parse(text) as { program?: { text?: string } }).program?.text;
  } catch {
    return;
  }
  if (kept === get().source) await engine.files.openRun(text);
}

/** Puts a version of the machine on the bench, and loads the program into it where it has no errors. */
export async function takeMachineVersion(id: string, number: number): Promise<void> {
  if (number === 0)
    return set({ failure: `The machine ${id} has no version without errors yet. Mend it under Machines and save a version.` });
  const version = await client.version('machine', id, number);
  const inputs = get().view?.inputs ?? [];
  await engine.texts.setBases(await baseTexts(version.text));
  const check = await engine.useMachine(version.text);
  if (!check.machine) return set({ failure: `Version ${number} of ${id} has problems: ${check.problems[0]?.sentence ?? ''}` });
  forgetMotion();
  set({
    machine: check.machine,
    motion: undefined,
    machineName: check.machine.name,
    machineVersion: number,
    newerVersion: undefined,
    view: undefined,
    failure: undefined,
  });
  await engine.run.setBreakpoints([...get().stops]);
  await engine.run.setSpeed(get().speed);
  await engine.texts.setChecksOff([...get().checksOff]);
  await engine.run.setBudget(ticksIn(get().budget));
  set({ help: await engine.texts.help(), systemRows: await engine.texts.systemRows() });
  await loadCourse(id);
  await relist();
  if (get().listing.problems.every((each) => each.grade !== 'error')) await load({ clear: false, inputs });
}

/** Newest versions of the machines that a document is based on, as far as they are known here. */
export async function baseTexts(text: string): Promise<Record<string, string>> {
  if (!/^based on:/m.test(text)) return {};
  const machines = await client.list('machine');
  const versions = await Promise.all(
    machines.map(async ({ id, name, versions: kept }) => {
      const newest = kept.at(-1);
      return newest && ([name.toLowerCase(), (await client.version('machine', id, newest.number)).text] as const);
    }),
  );
  return Object.fromEntries(versions.filter((each) => each !== undefined));
}

/** After another page or the Machines screen has saved a version. */
export async function lookForNewerMachine(): Promise<void> {
  const { program, machineVersion } = get();
  if (!program?.machine) return;
  const machine = await client.get('machine', program.machine).catch(() => undefined);
  const newest = machine?.versions.at(-1)?.number ?? 0;
  set({ newerVersion: newest > machineVersion ? newest : undefined });
}

// ---- editing ----

let listing: Promise<void> | undefined;
let wanted = 0;

/** One listing at a time; whatever has changed meanwhile, text or machine, is listed next, in one go. */
function relist(): Promise<void> {
  wanted++;
  listing ??= listUntilFresh().finally(() => {
    listing = undefined;
  });
  return listing;
}

async function listUntilFresh(): Promise<void> {
  for (let done = -1; done !== wanted;) {
    done = wanted;
    const { source } = get();
    const fresh = await engine.texts.list(source);
    set({ listing: fresh, listed: source, ...(fresh.symbols && { symbols: fresh.symbols }) });
  }
}

/** What the course keeps for this machine; parts go to the assembler. */
export async function loadCourse(machine = get().program?.machine): Promise<void> {
  const lists = await Promise.all(courseKinds.map((kind) => client.list(kind)));
  const own = lists.flat().filter((each) => each.machine === machine);
  const course = await Promise.all(own.map((each) => client.get(each.kind, each.id)));
  await engine.texts.setParts(Object.fromEntries(course.flatMap((each) => (each.kind === 'part' ? [[each.name, each.draft]] : []))));
  set({ course });
}

/** Keeps a text with the course; a text of that kind and name is replaced. */
export async function keepForCourse(kind: CourseKind, name: string, text: string): Promise<string> {
  const { program, course } = get();
  if (!program?.machine) return '';
  const known = course.find((each) => each.kind === kind && each.name.toLowerCase() === name.toLowerCase());
  if (known) await client.saveDraft(kind, known.id, { text, revision: known.revision });
  else await client.create(kind, { name, text, machine: program.machine });
  await loadCourse();
  await relist();
  return known ? `The ${kind} “${known.name}” was replaced.` : `Kept as the ${kind} “${name}”.`;
}

export async function dropFromCourse({ kind, id }: DocumentDetail): Promise<void> {
  await client.remove(kind as CourseKind, id);
  await loadCourse();
  await relist();
}

export async function switchCheck(code: CheckCode, on: boolean): Promise<void> {
  const checksOff = on ? get().checksOff.filter((each) => each !== code) : [...get().checksOff, code];
  localStorage.setItem(CHECKS_OFF, JSON.stringify(checksOff));
  set({ checksOff });
  await engine.texts.setChecksOff(checksOff);
  await relist();
}

export function setWriting(writing: boolean): void {
  localStorage.setItem(WRITING, writing ? 'yes' : 'no');
  set({ writing, controlling: false });
}

export function setControlling(controlling: boolean): void {
  localStorage.setItem(WRITING, 'no');
  set({ controlling, writing: false });
}

export const setStartingOver = (startingOver: boolean): void => set({ startingOver });
export const setCursorLine = (cursorLine: number): void => set({ cursorLine });
export const setUnfrozen = (unfrozen: boolean): void => set({ unfrozen });

export function edit(source: string): void {
  if (source === get().source) return;
  set({ source, message: undefined, offersPart: false });
  get().draft?.change(source);
  void relist();
}

export function takeText(source: string): void {
  set({ source, taken: get().taken + 1 });
  void relist();
}

export function setBreakLines(breakpoints: readonly number[]): void {
  set({ breakpoints });
  setStops(withLines(get().stops, breakpoints));
}

export function setStops(stops: readonly BreakSpec[]): void {
  const { program } = get();
  set({ stops });
  if (program) keepStops(program.id, stops);
  void engine.run.setBreakpoints([...stops]);
}

interface Loading {
  readonly clear: boolean;
  readonly inputs?: readonly number[];
  /** Load the finished part of a text with errors. */
  readonly unfinished?: boolean;
}

/** The one press: assembles and loads. With errors nothing is loaded, and the message says so. */
export async function load({ clear, inputs = get().view?.inputs ?? [], unfinished = false }: Loading): Promise<boolean> {
  const { source } = get();
  const { loaded, partial, ...listing } = await engine.load(source, { clear, inputs: [...inputs], unfinished });
  const { symbols = [], routines = [], parts = [] } = listing;
  set({ listing, listed: source, offersPart: partial });
  const errors = listing.problems.filter((each) => each.grade === 'error');
  if (!loaded) {
    const [first] = errors;
    const more = errors.length > 1 ? ` There are ${errors.length} errors.` : '';
    set({ message: first ? `Nothing was loaded. Line ${first.line}: ${first.sentence}${more}` : 'Nothing was loaded.' });
    return false;
  }
  const { spaces = [], programSpace = 0 } = get().machine ?? {};
  const labelsOf = spaces.map((_, space) => {
    const own = symbols.filter((each) => each.kind === 'label' && (each.space ?? programSpace) === space);
    // Of several names for one cell the first counts: a routine's before those inside it.
    return new Map(own.toReversed().map((each) => [each.at ?? each.value, each.name]));
  });
  const data = new Set(
    listing.rows.flatMap((row) => (row.kind === 'data' || row.kind === 'room' ? [`${row.space ?? programSpace} ${row.address!}`] : [])),
  );
  const dataLabels = labelsOf.map((each, space) => new Map([...each].filter(([address]) => data.has(`${space} ${address}`))));
  const line = errors[0]?.line;
  const message = line === undefined ? undefined : `The part before line ${line} is loaded. The run stops where something is missing.`;
  const rooms = [listing.rows, ...parts.map((each) => each.rows)]
    .flat()
    .flatMap(({ kind, space = programSpace, address, size = 0 }) =>
      kind === 'room' && address !== undefined && size > 0 ? [{ space, from: address, to: address + size - 1 }] : [],
    );
  set({ message, labels: labelsOf, dataLabels, routines, parts, rooms });
  return true;
}

// ---- commands ----

export function command(name: Command): void {
  if (get().note !== undefined) set({ note: undefined });
  void engine.run.command(name);
}
export const travel = (tick: number): void => void engine.run.travel(tick);

/** After a mistake of the engine's own: a new run of what is typed, in an empty memory. */
export async function startAnew(): Promise<void> {
  const { program } = get();
  set({ crash: undefined, view: undefined });
  if (program) sessionStorage.removeItem(runKey(program.id));
  await load({ clear: true, inputs: [] });
}

/** One of the ways of starting over; what is typed in the editor counts for the last two. */
export async function startOver(way: StartingOver): Promise<void> {
  forgetMotion();
  if (way === 'reload' || way === 'clear') await load({ clear: way === 'clear' });
  else await engine.startOver(way);
}

export function setSpeed(speed: Speed): void {
  set({ speed });
  void engine.run.setSpeed(speed);
}

/** What is typed as a number of ticks; undefined where it is none. */
export const ticksIn = (text: string): number | undefined => {
  const ticks = Number(text.replaceAll(/[\s,_]/g, ''));
  return text.trim() !== '' && Number.isSafeInteger(ticks) && ticks > 0 ? ticks : undefined;
};

/** Runs stop by themselves after so many ticks, and can go on. */
export function setBudget(budget: string): void {
  const { program } = get();
  set({ budget });
  if (program) keep('budget', program.id, budget);
  void engine.run.setBudget(ticksIn(budget));
}

/** The routine of the loaded program that a cell of the program space belongs to. */
export const routineOf = (routines: BenchState['routines'], address: number): string | undefined =>
  routines.find((each) => address >= each.from && address <= each.to)?.name;

export const askAbout = (pointed: Pointed | undefined): void => set({ pointed });

/** Loads what comes before the first error, and runs it. */
export async function runFinishedPart(): Promise<void> {
  if (await load({ clear: false, unfinished: true })) command('run');
}

export function runOrPause(): void {
  command(isRunning(get().view?.status) ? 'pause' : 'run');
}

/** How the memory is looked at. */
export type Looks = Partial<Pick<BenchState, 'base' | 'space'>>;
export const setLooks = (looks: Looks): void => set(looks);
export const selectFlag = (flag: number): void => void engine.run.selectFlag(flag);

// ---- programs ----

export async function createProgram(name: string, text: string): Promise<string | undefined> {
  const machine = get().program?.machine ?? get().programs[0]?.machine ?? (await client.list('machine'))[0]?.id;
  if (!machine) return undefined;
  return (await client.create('program', { name, text, machine })).id;
}

export async function keepProgramVersion(): Promise<string> {
  const { draft } = get();
  if (!draft) return '';
  await draft.flush();
  const { number } = await client.keepVersion('program', draft.id, draft.revision);
  return `Kept as version ${number}.`;
}

/** Takes over what the server knows of the program's versions. */
export async function refreshProgram(): Promise<void> {
  const { program } = get();
  if (program) set({ program: { ...program, versions: (await client.get('program', program.id)).versions } });
}

export const say = (message: string | undefined): void => set({ message });
export const tell = (note: string): void => set({ note, message: undefined });
