/**
 * Why a screen could not open what it should show, or that it shows what was seen last. Where the server was away it is asked
 * as soon as that is back.
 */
import { useEffect, useRef } from 'react';
import { Button } from '../ui/Button';
import { Notice } from '../ui/Panel';
import { isBack, useKeptAnswers } from './keptAnswers';
import { answers, AWAY, whenBack } from './reachable';

interface FailureProps {
  /** Nothing is shown where there is none. */
  readonly failure: string | undefined;
  /** Opens it once more. */
  readonly again: () => void;
  readonly children?: React.ReactNode;
}

const MINUTES = { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' } as const;

export function Failure({ failure, again, children }: FailureProps) {
  const seen = useKeptAnswers((state) => state.seen);
  const failed = failure !== undefined && failure !== '';
  const away = failed ? failure === AWAY : seen !== undefined;
  const newest = useRef(again);
  newest.current = again;
  // The one place where it is told that the server is back: asked in pauses, so that one that comes and goes is no endless round.
  const goOn = (): void => {
    isBack();
    newest.current();
  };
  useEffect(() => (away ? whenBack(goOn) : undefined), [away]);
  const askNow = async (): Promise<void> => {
    if (failed) newest.current();
    else if (await answers()) goOn();
  };
  const button = (
    <Button onClick={() => void askNow()} data-testid="try-again">
      Try again
    </Button>
  );
  if (failed)
    return (
      <Notice tone="problem" role="alert">
        {failure}
        {away && ' This page goes on by itself when it is back.'}
        {away && button}
        {children}
      </Notice>
    );
  if (seen === undefined) return null;
  return (
    <Notice role="status" data-testid="seen-last">
      {`${AWAY} This is what the browser saw of it last, ${new Date(seen).toLocaleString('en-GB', MINUTES)}; what you write is kept, and saved when it is back.`}
      {button}
    </Notice>
  );
}
