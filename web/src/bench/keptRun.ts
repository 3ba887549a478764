/** The run that stands on the bench, kept over a reload for as long as this tab lives. */
import { isRunning, type View } from '@zettak/core/session/protocol';
import { keep, tabMemory } from '../app/preferences';
import { keepGiven } from '../documents/given';
import { engine } from '../session/engine';

/** A run is put back only if going through it again takes a moment. */
const MOST_TICKS = 20_000_000;
/** It is kept when it has stood still for so many ms. */
const DELAY = 100;
const nameOf = (program: string): string => `run.${program}`;

export class KeptRun {
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly program: string;

  /** `program`: its id. */
  constructor(program: string) {
    this.program = program;
  }

  /** Keeps the run that a view shows, if it stands still. */
  keepSoon({ status, ticks, inputs, handed, sentence }: View): void {
    clearTimeout(this.timer);
    // A machine without a program is no reason to forget the run of one.
    if (isRunning(status) || status === 'empty') return;
    if (ticks === 0 && inputs.length === 0) return this.forget();
    if (ticks > 0) keep(`ran.${this.program}`, sentence);
    if (handed.length > 0) keepGiven(this.program, handed);
    if (ticks > MOST_TICKS) return;
    this.timer = setTimeout(() => void this.keep(), DELAY);
  }

  private async keep(): Promise<void> {
    const made = await engine.files.keepRun('');
    if ('text' in made && this.timer !== undefined) tabMemory.keep(nameOf(this.program), made.text);
  }

  /** What was kept; undefined where there is nothing. */
  get text(): string | undefined {
    return tabMemory.kept(nameOf(this.program));
  }

  /** Nothing is put back at the next load. */
  forget(): void {
    tabMemory.forget(nameOf(this.program));
  }

  /** Another program lies on the bench: nothing more is kept under this one's name. */
  close(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
  }
}

/** Puts a kept run back where it stood, if it is one of the same text. */
export async function putRunBack(text: string, source: string): Promise<void> {
  try {
    const kept = JSON.parse(text) as { program?: { text?: string } } | null;
    if (kept?.program?.text === source) await engine.files.openRun(text);
  } catch {
    // Rubbish in the storage: the run starts over.
  }
}
