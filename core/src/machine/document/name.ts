/** The name in a machine's document, as text: found and replaced without reading the whole. */
const LINE = /^(machine:[ \t]*)(?:"([^"\n]*)"|'([^'\n]*)'|([^\s#"'][^\s#]*))/m;

/** What the document calls its machine; undefined where it does not say. */
export function documentName(text: string): string | undefined {
  const [, , double, single, plain] = LINE.exec(text) ?? [];
  const name = (double ?? single ?? plain)?.trim();
  return name === '' ? undefined : name;
}

/** The document with another name for its machine, and nothing else changed. */
export const withDocumentName = (text: string, name: string): string => text.replace(LINE, (_, before: string) => before + name);

/** A name that none of the others has, in any case: with a number behind it where it is taken. */
export function freeName(name: string, others: readonly string[]): string {
  const taken = new Set(others.map((each) => each.toLowerCase()));
  let free = name;
  for (let number = 2; taken.has(free.toLowerCase()); number++) free = `${name}-${number}`;
  return free;
}
