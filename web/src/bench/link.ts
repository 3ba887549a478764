/** Links that open the bench at a program, with what its run was given, at a tick. */
import { engine } from '../session/engine';
import { say } from './text';

const MARK = '#run=';

const packed = (text: string): string =>
  btoa(String.fromCharCode(...new TextEncoder().encode(text)))
    .replaceAll('+', '-')
    .replaceAll('/', '_')
    .replace(/=+$/, '');

function unpacked(text: string): string {
  try {
    const bytes = Uint8Array.from(atob(text.replaceAll('-', '+').replaceAll('_', '/')), (each) => each.charCodeAt(0));
    return new TextDecoder().decode(bytes);
  } catch {
    return '';
  }
}

/** The address that leads back to where the run stands; or why there is none. */
export async function linkHere(program: string): Promise<{ readonly address: string } | { readonly refused: string }> {
  const made = await engine.files.linked();
  return 'refused' in made ? made : { address: `${location.origin}/bench/${program}${MARK}${packed(made.text)}` };
}

/** Follows what stands in the address, once: a reload begins where the run stands then. */
export async function followLink(): Promise<void> {
  const { hash, pathname } = location;
  if (!hash.startsWith(MARK)) return;
  history.replaceState(history.state, '', pathname);
  const { said } = await engine.files.openLinked(unpacked(hash.slice(MARK.length)));
  if (said !== '') say(said);
}
