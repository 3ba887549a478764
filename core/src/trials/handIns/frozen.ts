/** Lines that a frame gives: they end in `;!` and stay as they are. */

const FROZEN = /;!\s*$/;

/** Whether a line is given by a frame. */
export const isFrozen = (line: string): boolean => FROZEN.test(line);

/** The line without its mark and with its blanks folded. */
const plain = (line: string): string =>
  line
    .replace(FROZEN, '')
    .trim()
    .replace(/[ \t]+/g, ' ');

/** Given lines that a text has not, in their order; it may have any other lines between them. */
export function missingFrozen(frame: string, text: string): string[] {
  const lines = text.split(/\r?\n/).map(plain);
  let from = 0;
  return frame
    .split(/\r?\n/)
    .filter(isFrozen)
    .map(plain)
    .filter((line) => {
      const found = lines.indexOf(line, from);
      if (found >= 0) from = found + 1;
      return found < 0;
    });
}
