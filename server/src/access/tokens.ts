/** Tokens: made by chance, given out once, kept as their hash. */
import { createHash, randomBytes } from 'node:crypto';

/** 128 bits, as they stand in links. */
export const newToken = (): string => randomBytes(16).toString('base64url');

/** 256 bits, for a session. */
export const newSessionToken = (): string => randomBytes(32).toString('base64url');

/** SHA-256: enough for what was made by chance. */
export const tokenHash = (token: string): string => createHash('sha256').update(token).digest('hex');

/** Whether a text can be a token of 128 bits or more. */
export const isToken = (text: unknown): text is string => typeof text === 'string' && /^[A-Za-z0-9_-]{22,64}$/.test(text);
