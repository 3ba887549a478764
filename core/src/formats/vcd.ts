/** Value change dump, the four-state format of IEEE 1364-2005, clause 18: what waveform viewers read. */
import { itemAt } from '../text/itemAt';

export interface Signal {
  readonly name: string;
  /** Bits. */
  readonly width: number;
}

/** Identifiers are made of the printable characters from ! to ~. */
const FIRST = 33;
const CODES = 94;

/** The short name of a signal by its number (IEEE 1364): printable characters, shortest first. */
export function identifierOf(index: number): string {
  let code = '';
  for (let rest = index; code === '' || rest > 0; rest = Math.floor(rest / CODES)) code += String.fromCharCode(FIRST + (rest % CODES));
  return code;
}

/** Blanks end a name in this format. */
const nameOf = (name: string): string =>
  name
    .replace(/[^\x21-\x7e]/g, '_')
    .replace(/\[/g, '(')
    .replace(/\]/g, ')') || '_';

export class VcdWriter {
  private readonly lines: string[];
  private last: readonly number[] | undefined;
  private time = -1;

  /** One time unit stands for a tick. */
  constructor(
    private readonly signals: readonly Signal[],
    { scope, comment }: { scope: string; comment: string },
  ) {
    this.lines = [
      `$comment ${comment.replaceAll('$', '')} $end`,
      '$version Zettak $end',
      '$timescale 1 us $end',
      `$scope module ${nameOf(scope)} $end`,
      ...signals.map(
        ({ name, width }, at) => `$var reg ${width} ${identifierOf(at)} ${nameOf(name)}${width > 1 ? ` [${width - 1}:0]` : ''} $end`,
      ),
      '$upscope $end',
      '$enddefinitions $end',
    ];
  }

  /** The values at a time; times rise. Only what has changed is written. */
  sample(time: number, values: readonly number[]): void {
    const { last } = this;
    const changed = values.flatMap((value, at) => (last?.[at] === value ? [] : [this.change(at, value)]));
    this.last = values.slice();
    this.time = time;
    if (changed.length === 0) return;
    this.lines.push(`#${time}`, ...(last ? changed : ['$dumpvars', ...changed, '$end']));
  }

  private change(at: number, value: number): string {
    const bits = value.toString(2);
    return itemAt(this.signals, at).width === 1 ? `${bits}${identifierOf(at)}` : `b${bits} ${identifierOf(at)}`;
  }

  /** The file; the last tick lasts one unit. */
  end(): string {
    return [...this.lines, `#${this.time + 1}`, ''].join('\n');
  }
}
