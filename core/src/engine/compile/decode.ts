/** How the compiled executor tells instructions apart by their first cell. */
import { chosenIn, claimsOf, firstCellOf, type Choice, type Demand } from '../../machine/model/encode';
import { programSpaceOf, type Field, type Form, type Machine } from '../../machine/model/machine';
import { digitsAt, power } from '../../text/number';
import { perMachine } from '../../machine/model/perMachine';

/** In the table: this first cell means nothing, or more cells have to be looked at. */
export const LOOK_IT_UP = 0xffff;

/** Digits of the first cell, counted from its lowest. */
export interface Run {
  readonly low: number;
  readonly width: number;
}

/** A form, or a form with the one condition that its first cell names: each has code of its own. */
export interface Variant {
  readonly form: Form;
  readonly settled: { readonly field: Field; readonly value: number } | undefined;
}

/** More variants than this are not made. */
const MOST_VARIANTS = 512;

/** In the order of the forms; the compiled executor's table says which of them a first cell means. */
function variantsOf({ forms }: Machine, width: number): readonly Variant[] {
  const plain = (form: Form): Variant[] => [{ form, settled: undefined }];
  const variants = forms.flatMap((form): Variant[] => {
    const [field, more] = form.operands.filter((each) => each.condition);
    const inFirst = field?.pieces.every((each) => each.low >= (form.format.cells - 1) * width);
    if (!field?.names || more || !inFirst || form.settledLate) return plain(form);
    return [...field.names.keys()].map((value) => ({ form, settled: { field, value } }));
  });
  return variants.length > MOST_VARIANTS ? forms.flatMap(plain) : variants;
}

/** What a variant claims of the first cell: its condition's code is as fixed as an opcode. */
function claimsOfVariant({ form, settled }: Variant, width: number, radix: number) {
  const { format, fixed, operands } = form;
  const own = settled ? { format, fixed: [...fixed, settled], operands: operands.filter((each) => each !== settled.field) } : form;
  return firstCellOf(claimsOf(own, width, radix));
}

export interface Decoding {
  readonly variants: readonly Variant[];
  /** The digits that a form's place in the table is found by, the lowest run first. Empty where there is no table. */
  readonly runs: readonly Run[];
  /** An index of a variant, or LOOK_IT_UP. */
  readonly table: Uint16Array;
  /** Without a table: variants that their first cell settles, and what they demand of it. */
  readonly demands: readonly { readonly variant: number; readonly demands: readonly Demand[]; readonly choices: readonly Choice[] }[];
}

/** A table has at most so many entries. */
const LARGEST = 65_536;
/** Taking more runs of digits out of a cell than this costs more than a larger table. */
const FEW_RUNS = 2;

export const decodingOf = perMachine(make);

/** The digits that any form demands, as runs without gaps. */
function demandedRuns(all: readonly (readonly Run[])[], width: number): Run[] {
  const demanded = new Uint8Array(width);
  for (const { low, width: digits } of all.flat()) demanded.fill(1, low, low + digits);
  const runs: Run[] = [];
  for (let at = 0; at < width; at++) {
    if (demanded[at] === 0) continue;
    const end = demanded.indexOf(0, at);
    const high = end === -1 ? width : end;
    runs.push({ low: at, width: high - at });
    at = high;
  }
  return runs;
}

function make(machine: Machine): Decoding {
  const { radix } = machine;
  const { width } = programSpaceOf(machine);
  const variants = variantsOf(machine, width);
  const claims = variants.map((each, variant) => ({ form: each.form, variant, ...claimsOfVariant(each, width, radix) }));
  const own = demandedRuns(
    claims.map(({ demands, choices }) => [...demands, ...choices.flatMap((each) => each.pieces)]),
    width,
  );
  const whole = [{ low: 0, width }];
  const runs = own.length > FEW_RUNS && power(radix, width) <= LARGEST ? whole : own;
  const size = power(
    radix,
    runs.reduce((sum, each) => sum + each.width, 0),
  );
  if (size > LARGEST) {
    const settled = claims.filter(({ form }) => !form.settledLate);
    return { variants, runs: [], table: new Uint16Array(0), demands: settled };
  }
  // What a form demands of the index, as its digits stand there.
  const inIndex = <T extends Run>(digits: T): T => {
    let at = 0;
    for (const run of runs) {
      if (digits.low >= run.low && digits.low < run.low + run.width) return { ...digits, low: at + digits.low - run.low };
      at += run.width;
    }
    throw new Error('A demand lies outside of what is demanded');
  };
  const table = new Uint16Array(size).fill(LOOK_IT_UP);
  const taken = new Uint8Array(size);
  for (const { form, variant, demands, choices } of claims) {
    const wanted = demands.map(inIndex);
    const chosen = choices.map((each) => ({ ...each, pieces: each.pieces.map(inIndex) }));
    const meets =
      radix === 2
        ? masked(wanted)
        : (index: number): boolean => wanted.every((each) => digitsAt(index, each.low, each.width, radix) === each.value);
    for (let index = 0; index < size; index++) {
      if (!meets(index) || !chosen.every((each) => each.values.has(chosenIn(each, index, radix)))) continue;
      table[index] = taken[index] === 0 && !form.settledLate ? variant : LOOK_IT_UP;
      taken[index] = 1;
    }
  }
  return { variants, runs, table, demands: [] };
}

function masked(demands: readonly Demand[]): (index: number) => boolean {
  const mask = demands.reduce((sum, each) => sum | ((2 ** each.width - 1) << each.low), 0);
  const value = demands.reduce((sum, each) => sum | (each.value << each.low), 0);
  return (index) => (index & mask) === value;
}
