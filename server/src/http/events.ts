/** Server-Sent Events: each value as one event of JSON. */
import type { Response } from 'express';

/** ms between two signs that the connection lives. */
const SIGN_OF_LIFE = 20_000;

/** `isAllowed` is asked from time to time: a stream ends with the session that opened it. */
export function eventStream(response: Response, isAllowed = (): boolean => true): { send(value: unknown): void; end(): void } {
  response.set({ 'Content-Type': 'text/event-stream; charset=utf-8', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' });
  response.flushHeaders();
  const lives = setInterval(() => (isAllowed() ? void response.write(': here\n\n') : void response.end()), SIGN_OF_LIFE);
  return {
    send: (value) => void (isAllowed() ? response.write(`data: ${JSON.stringify(value)}\n\n`) : response.end()),
    end: () => clearInterval(lives),
  };
}
