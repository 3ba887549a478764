/** The teacher's passphrase: kept as scrypt (RFC 7914) with a salt of its own. */
import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import { promisify } from 'node:util';
import type { Settings } from './settings';

export const LEAST_LENGTH = 10;
const NAME = 'passphrase';
/** 2^15 rounds of 8 blocks: 32 MB and some tens of ms. */
const [ROUNDS, BLOCKS, LENGTH] = [2 ** 15, 8, 32];

const derive = promisify<string, Buffer, number, { N: number; r: number; p: number; maxmem: number }, Buffer>(scrypt);
const derived = (text: string, salt: Buffer): Promise<Buffer> =>
  derive(text.normalize('NFKC'), salt, LENGTH, { N: ROUNDS, r: BLOCKS, p: 1, maxmem: 256 * ROUNDS * BLOCKS });

/** Whether there is one, so that everything but students' own pages asks for a session. */
export const hasPassphrase = (settings: Settings): boolean => settings.get(NAME) !== undefined;

/** Why a text cannot be one; undefined where it can. */
export const refusedPassphrase = (text: string): string | undefined =>
  text.trim().length < LEAST_LENGTH ? `A passphrase has at least ${LEAST_LENGTH} characters.` : undefined;

export async function setPassphrase(settings: Settings, text: string): Promise<void> {
  const salt = randomBytes(16);
  settings.set(NAME, `${salt.toString('hex')}:${(await derived(text, salt)).toString('hex')}`);
}

/** Takes as long whether it is the one or not. */
export async function isPassphrase(settings: Settings, text: string): Promise<boolean> {
  const [salt = '', hash = ''] = settings.get(NAME)?.split(':') ?? [];
  const found = await derived(text.slice(0, 1000), Buffer.from(salt, 'hex'));
  const kept = Buffer.from(hash, 'hex');
  return kept.length === found.length && timingSafeEqual(kept, found);
}
