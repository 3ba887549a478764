/** Rows as CSV (RFC 4180), in and out. */
import papa from 'papaparse';

/**
 * A spreadsheet takes a text that begins so for a formula, also after a line break in the text, and whatever blanks or
 * invisible characters come before.
 */
const FORMULA = /(^|[\r\n])[\s\p{Cc}\p{Cf}]*[=+\-@\t\r]/u;

const OUT = { newline: '\r\n', escapeFormulae: FORMULA };

/** One row with its end. A text that a spreadsheet would take for a formula gets a quote before it. */
export const csvRow = (fields: readonly (string | number)[]): string => `${papa.unparse([fields], OUT)}\r\n`;

/** A text as it was before `csvRow` put a quote before it. */
export const withoutGuard = (text: string): string => (text.startsWith("'") && FORMULA.test(text.slice(1)) ? text.slice(1) : text);

export interface CsvRow {
  /** Where it begins, from 1. */
  readonly line: number;
  /** Without blanks around them. */
  readonly fields: readonly string[];
}

/** Every row that holds something; fields may be quoted, and hold commas and line breaks. */
export function readCsv(text: string): CsvRow[] {
  const rows: CsvRow[] = [];
  let line = 1;
  for (const fields of papa.parse(text.replace(/^\uFEFF/, ''), { delimiter: ',', skipEmptyLines: false }).data) {
    if (fields.some((each) => each.trim() !== '')) rows.push({ line, fields: fields.map((each) => each.trim()) });
    line += 1 + fields.reduce((sum, each) => sum + (each.match(/\r\n|\n|\r/g)?.length ?? 0), 0);
  }
  return rows;
}
