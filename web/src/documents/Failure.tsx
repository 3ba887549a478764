/** Why a screen could not open what it should show. Where the server was away it is opened as soon as that is back. */
import { useEffect, useRef } from 'react';
import { Button } from '../ui/Button';
import { Notice } from '../ui/Panel';
import { AWAY, whenBack } from './reachable';

interface FailureProps {
  /** Nothing is shown where there is none. */
  readonly failure: string | undefined;
  /** Opens it once more. */
  readonly again: () => void;
  readonly children?: React.ReactNode;
}

export function Failure({ failure, again, children }: FailureProps) {
  const away = failure === AWAY;
  const newest = useRef(again);
  newest.current = again;
  useEffect(() => (away ? whenBack(() => newest.current()) : undefined), [away]);
  if (failure === undefined || failure === '') return null;
  return (
    <Notice tone="problem" role="alert">
      {failure}
      {away && ' This page goes on by itself when it is back.'}
      {away && (
        <Button onClick={again} data-testid="try-again">
          Try again
        </Button>
      )}
      {children}
    </Notice>
  );
}
