/** Questions to the run on a bench: when something was written, when a condition held. The answer is gone to. */
import { explainEntry } from '../engine/meaning/entryProblems';
import { readWatched } from '../engine/watch/conditions';
import { readPlace } from '../engine/watch/places';
import type { Answer, Question } from './protocol';
import type { Current, Run } from './run';
import type { Texts } from './texts';

const WHEN = {
  first: 'in this run so far',
  next: 'after this tick, as far as the run has come',
  previous: 'before this tick',
} as const;

export class Past {
  private readonly texts: Texts;
  private readonly run: Run;

  constructor(texts: Texts, run: Run) {
    this.texts = texts;
    this.run = run;
  }

  /** Finds a moment of the run and goes there. Never answers where the looking was given up. */
  async ask(question: Question): Promise<Answer> {
    const { current } = this.run;
    if (!current) return { refused: 'Nothing is loaded yet.' };
    return question.kind === 'written' ? this.written(current, question.place) : this.held(current, question);
  }

  private async written({ program, runner }: Current, text: string): Promise<Answer> {
    const place = readPlace(this.texts.machine!, program, text);
    if ('refused' in place) return { refused: explainEntry(place.refused) };
    const tick = await this.looked(runner.timeline.searchBack({ kind: 'write', place }));
    if (tick === undefined) return { none: `${text} has not been written in this run.` };
    this.run.travel(tick);
    return { tick, sentence: `${text} was last written by tick ${tick.toLocaleString('en-US')}.` };
  }

  private async held({ program, runner }: Current, question: Exclude<Question, { kind: 'written' }>): Promise<Answer> {
    const condition = readWatched(this.texts.machine!, program, question.condition);
    if ('refused' in condition) return { refused: explainEntry(condition.refused) };
    const sought = { kind: 'condition', condition } as const;
    const { ticks } = runner;
    const search =
      question.kind === 'previous'
        ? runner.timeline.searchBack(sought, ticks - 1)
        : runner.timeline.searchForward(sought, question.kind === 'first' ? -1 : ticks);
    const tick = await this.looked(search);
    if (tick === undefined) return { none: `${condition.text} does not hold ${WHEN[question.kind]}.` };
    this.run.travel(tick);
    return { tick, sentence: `${condition.text} holds after tick ${tick.toLocaleString('en-US')}.` };
  }

  private looked(search: Generator<number, number | undefined>): Promise<number | undefined> {
    return new Promise((resolve) => this.run.search(search, resolve));
  }
}
