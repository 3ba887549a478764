/** Server-Sent Events: each value as one event of JSON. */
import type { Response } from 'express';

/** ms between two signs that the connection lives. */
const SIGN_OF_LIFE = 20_000;

export function eventStream(response: Response): { send(value: unknown): void; end(): void } {
  response.set({ 'Content-Type': 'text/event-stream; charset=utf-8', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' });
  response.flushHeaders();
  const lives = setInterval(() => response.write(': here\n\n'), SIGN_OF_LIFE);
  return {
    send: (value) => void response.write(`data: ${JSON.stringify(value)}\n\n`),
    end: () => clearInterval(lives),
  };
}
