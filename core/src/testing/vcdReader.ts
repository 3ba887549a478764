/** Reads value change dumps, written from the grammar of IEEE 1364-2005, 18.2: knows nothing of the writer. */

interface Declared {
  readonly code: string;
  readonly name: string;
  readonly width: number;
}

export interface Dump {
  readonly scope: string;
  readonly signals: readonly Declared[];
  /** The values of all signals at a time. */
  readonly at: (time: number) => number[];
  readonly end: number;
}

export function readVcd(text: string): Dump {
  const tokens = text.split(/\s+/).filter((each) => each !== '');
  let next = 0;
  const take = (): string => {
    const token = tokens[next++];
    if (token === undefined) throw new Error('The file ends in the middle of a command');
    return token;
  };
  const untilEnd = (): string[] => {
    const found: string[] = [];
    for (let token = take(); token !== '$end'; token = take()) found.push(token);
    return found;
  };
  const signals: Declared[] = [];
  let scope = '';
  for (let keyword = take(); keyword !== '$enddefinitions'; keyword = take()) {
    const words = untilEnd();
    if (keyword === '$scope') [, scope = ''] = words;
    else if (keyword === '$var') {
      const [kind, width, code, name] = words as [string, string, string, string];
      if (kind !== 'reg' && kind !== 'wire' && kind !== 'integer') throw new Error(`${kind} is no kind of variable`);
      if (signals.some((each) => each.code === code)) throw new Error(`${code} is declared twice`);
      signals.push({ code, name, width: Number(width) });
    } else if (!['$comment', '$version', '$date', '$timescale', '$upscope'].includes(keyword))
      throw new Error(`${keyword} is no declaration`);
  }
  untilEnd();
  const samples: { time: number; values: Map<string, number> }[] = [];
  let time = 0;
  const put = (code: string, bits: string): void => {
    const declared = signals.find((each) => each.code === code);
    if (!declared || !/^[01]+$/.test(bits) || bits.length > declared.width) throw new Error(`${bits} for ${code} is no value change`);
    samples.at(-1)!.values.set(code, parseInt(bits, 2));
  };
  while (next < tokens.length) {
    const token = take();
    if (token.startsWith('#')) {
      if (Number(token.slice(1)) < time) throw new Error('Time runs backwards');
      time = Number(token.slice(1));
      samples.push({ time, values: new Map(samples.at(-1)?.values) });
    } else if (token.startsWith('b')) put(take(), token.slice(1));
    else if (/^[01]/.test(token)) put(token.slice(1), token[0]!);
    else if (token !== '$dumpvars' && token !== '$end') throw new Error(`${token} is no value change`);
  }
  return {
    scope,
    signals,
    end: time,
    at: (wanted) => {
      const sample = samples.findLast((each) => each.time <= wanted);
      return signals.map((each) => sample?.values.get(each.code) ?? NaN);
    },
  };
}
