/** Rows as CSV (RFC 4180). */

/** Text that a spreadsheet would take for a formula is marked as text. */
export function csvField(value: string | number): string {
  if (typeof value === 'number') return String(value);
  const safe = /^[=+@\t\r-]/.test(value) ? `'${value}` : value;
  return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}

export const csvRow = (fields: readonly (string | number)[]): string => `${fields.map(csvField).join(',')}\r\n`;
