/** Programs that are equal up to names, order of data and blank lines have one normal form. */
import { instructionsOf } from '../../assembler/assist/instructions';
import type { Program, Row } from '../../image/program';
import { effectsOf } from '../../machine/model/effects';
import { decode } from '../../machine/model/encode';
import type { Machine } from '../../machine/model/machine';

/**
 * Instructions in their order; places that they name by what lies there: an instruction by its number, data by the order in
 * which it is named first, with its cells. Data that no instruction names stands behind, sorted. Too short programs have none.
 */
export function normalForm(machine: Machine, program: Program): string | undefined {
  const code = instructionsOf(machine, program).filter((each) => each.row.part === undefined);
  if (code.length < LEAST_INSTRUCTIONS) return undefined;
  const numbers = new Map(code.map((each, at) => [each.address, at]));
  const data = dataOf(program);
  const named = new Map<Row, number>();
  const placed = (value: number): string | undefined => {
    const instruction = numbers.get(value);
    if (instruction !== undefined) return `I${instruction}`;
    const found = data.find(({ row }) => row.address !== undefined && value >= row.address && value < row.address + sizeOf(row));
    if (!found) return undefined;
    const number = named.get(found.row) ?? named.size;
    named.set(found.row, number);
    return `D${number}+${value - found.row.address!}`;
  };
  const lines = code.map(({ form, words, address }) => {
    const decoded = decode(machine, (offset) => words[offset], address);
    if ('refused' in decoded) return words.join(' ');
    const { addressFields, targetFields } = effectsOf(machine, form);
    const operands = decoded.operands.map(({ field, value }) => {
      const place = addressFields.has(field.name) || targetFields.has(field.name) ? placed(value) : undefined;
      return place ?? String(value);
    });
    return `${form.index} ${operands.join(' ')}`;
  });
  const used = [...named.keys()].map(contentOf);
  const rest = data.filter(({ row }) => !named.has(row)).map(({ row }) => contentOf(row));
  return [...lines, '', ...used, '', ...rest.sort()].join('\n');
}

/** Shorter programs are alike without anybody's doing. */
const LEAST_INSTRUCTIONS = 5;

const sizeOf = ({ size, words }: Row): number => size ?? words.length;

const contentOf = ({ kind, words, size }: Row): string => (kind === 'room' ? `room ${size ?? 0}` : words.join(' '));

const dataOf = (program: Program): { readonly row: Row }[] =>
  program.rows.filter((each) => each.kind === 'data' || each.kind === 'room').map((row) => ({ row }));
