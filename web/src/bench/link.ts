/** Links that open the bench at a program, with what its run was given, at a tick. */
import { engine } from '../session/engine';
import { say } from './text';

/** In a folder of any file server the part behind “#” is the path already. */
const inFolder = (): boolean => location.hash.startsWith('#/');
const HERE = /[#?]run=([\w-]+)$/;

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
  if ('refused' in made) return made;
  const [before] = location.href.split(inFolder() ? '#' : '/bench/');
  return { address: `${before}${inFolder() ? '#' : ''}/bench/${program}${inFolder() ? '?' : '#'}run=${packed(made.text)}` };
}

/** Follows what stands in the address, once: a reload begins where the run stands then. */
export async function followLink(): Promise<void> {
  const { hash, pathname } = location;
  const found = HERE.exec(hash);
  if (!found) return;
  history.replaceState(history.state, '', `${pathname}${hash.slice(0, found.index)}`);
  const { said } = await engine.files.openLinked(unpacked(found[1]!));
  if (said !== '') say(said);
}
