/** Values on their way, or at rest just before their goals. */
import { useLayoutEffect, useMemo, useRef } from 'react';
import type { TickReport } from '@zettak/core/engine/meaning/report';
import { itemAt } from '@zettak/core/text/itemAt';
import { framesOf, halfOf, moved, restsOf } from './journey';
import type { Box, Point } from './layout';
import type { Journey } from './routes';

/** A tick whose tokens are under way, for so many ms; what is shown is still how things stood before. */
export interface Moving {
  readonly report: TickReport;
  readonly duration: number;
}

interface TokensParts {
  readonly journeys: readonly Journey[];
  readonly moving: Moving | undefined;
  /** Parts whose values no token covers when it has arrived. */
  readonly parts: readonly Box[];
}

export function Tokens({ journeys, moving, parts }: TokensParts) {
  const group = useRef<SVGGElement>(null);
  const rests = useMemo(() => restsOf(journeys, parts), [journeys, parts]);
  const stages = journeys.some((each) => each.stage === 1) ? 2 : 1;
  // Movement belongs to the compositor: nothing is drawn or laid out anew while a token travels.
  useLayoutEffect(() => {
    if (!moving) return;
    const options = { duration: moving.duration * 0.92, fill: 'both' as const };
    const animations = [...(group.current?.children ?? [])].map((each, at) => {
      const { points, stage } = itemAt(journeys, at);
      return each.animate(framesOf(points, { stage, stages, stays: journeys.length === 1, rest: itemAt(rests, at) }), options);
    });
    return () => animations.forEach((each) => each.cancel());
  }, [journeys, moving, stages, rests]);
  return (
    <g data-testid="tokens" ref={group}>
      {journeys.map((each, at) => (
        <Token key={at} at={itemAt(rests, at).at} travels={moving !== undefined} path={each.path} text={each.text} />
      ))}
    </g>
  );
}

interface TokenParts {
  readonly at: Point;
  /** Only what moves is placed by a transform: a browser keeps a part of the picture for each of those, and makes it anew with them. */
  readonly travels: boolean;
  readonly path: Journey['path'];
  readonly text: string;
}

function Token({ at, travels, path, text }: TokenParts) {
  const half = halfOf(text);
  const { x, y } = travels ? { x: 0, y: 0 } : at;
  const shape =
    path === 'data'
      ? `M${x - half} ${y - 12} h${2 * half} v24 h${-2 * half} z`
      : `M${x - half - 3} ${y - 12} h${2 * half - 4} l10 12 l-10 12 h${4 - 2 * half} l8 -12 z`;
  return (
    <g style={travels ? { transform: moved(at) } : undefined}>
      <path d={shape} className={`token ${path}`} />
      <text x={path === 'data' ? x : x + 2} y={y + 6} textAnchor="middle" className="token-text">
        {text}
      </text>
    </g>
  );
}
