/** The run so far as one strip on a canvas, from all of it to single ticks: dragged, turned with the wheel, moved with keys; a press goes there. */
import { Box, Flex } from '@chakra-ui/react';
import { Printer } from 'lucide-react';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Machine, Tone } from '@zettak/core/machine/model/machine';
import { isRunning } from '@zettak/core/session/protocol';
import { CALLED, CAME_BACK, FROM_OUTSIDE, STOPPED, TOOK, WROTE, type RunStrip } from '@zettak/core/session/runSoFar';
import { grouped } from '@zettak/core/text/number';
import { engine } from '../../session/engine';
import { Button } from '../../ui/Button';
import { Segments } from '../../ui/Segments';
import { useDocument } from '../document';
import { setListed, setOnPaper, useLooks } from '../looks';
import { travel, useRun } from '../run';
import { goOn, wholeWords, zoomed, type Stretch } from './stretch';

const [HEIGHT, BAND] = [28, 15];
/** By phase; all behind these fill the band. */
const PHASE_HEIGHTS: readonly number[] = [0.55, 0.75];
const TONES: Readonly<Record<Tone, string>> = {
  water: 'address',
  sand: 'sandline',
  rust: 'data',
  mist: 'edge',
  moss: 'moss',
  plum: 'plum',
};

export function SoFar() {
  const machine = useDocument((state) => state.machine);
  const ticks = useRun((state) => state.still?.ticks ?? 0);
  const furthest = useRun((state) => state.still?.furthest ?? 0);
  const begun = useRun((state) => (state.view?.furthest ?? 0) > 0);
  const running = useRun((state) => isRunning(state.view?.status));
  const listed = useLooks((state) => state.listed);
  if (!machine || !begun) return null;
  return (
    <Flex align="center" gap="8px" px="12px" pb="2px" flexShrink="0" data-testid="so-far">
      <Segments
        label="How the run is shown"
        value={listed ? 'list' : 'ticks'}
        choose={(value) => setListed(value === 'list')}
        options={['ticks', 'list']}
        testId="so-far-look"
      />
      {listed && (
        <Button
          px="6px"
          disabled={running}
          onClick={() => setOnPaper('run')}
          aria-label="The run, for print"
          tip="The run, for print"
          data-testid="print-run"
        >
          <Printer size={14} aria-hidden />
        </Button>
      )}
      <Canvas machine={machine} ticks={ticks} furthest={furthest} running={running} />
    </Flex>
  );
}

interface CanvasProps {
  readonly machine: Machine;
  readonly ticks: number;
  readonly furthest: number;
  readonly running: boolean;
}

function Canvas({ machine, ticks, furthest, running }: CanvasProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [width, setWidth] = useState(600);
  const [wanted, setWanted] = useState<Stretch>();
  const [strip, setStrip] = useState<RunStrip>();
  const drag = useRef<{ readonly x: number; readonly stretch: Stretch; moved: boolean } | undefined>(undefined);
  const whole = { from: 0, to: Math.max(1, furthest) };
  const shown = wanted ?? whole;
  useEffect(() => {
    const place = canvas.current;
    if (!place) return;
    const observer = new ResizeObserver(() => setWidth(Math.max(100, Math.floor(place.clientWidth))));
    observer.observe(place);
    return () => observer.disconnect();
  }, []);
  // While it runs the strip stays as it was: the run is not asked what it has been through.
  useEffect(() => {
    if (running) return;
    let live = true;
    void engine.soFar.strip(shown.from, shown.to, width).then((found) => {
      if (live && found) setStrip(found);
    });
    return () => {
      live = false;
    };
  }, [shown.from, shown.to, width, running, furthest]);
  useEffect(() => {
    if (canvas.current && strip) draw(canvas.current, { machine, strip, ticks, width });
  }, [machine, strip, ticks, width]);
  const tickAt = (x: number): number => Math.round(shown.from + (x / width) * (shown.to - shown.from));
  const zoom = useCallback(
    (by: number, around: number): void =>
      setWanted((now) => zoomed(now ?? { from: 0, to: Math.max(1, furthest) }, { by, around, furthest })),
    [furthest],
  );
  const pan = (by: number): void => setWanted(goOn(shown, by, furthest));
  // The wheel belongs to the strip, and the page stays where it is; React's own listener could not say so.
  useEffect(() => {
    const place = canvas.current;
    if (!place) return;
    const turn = (event: WheelEvent): void => {
      event.preventDefault();
      if (event.deltaX !== 0 || event.shiftKey)
        return setWanted((now) => goOn(now ?? { from: 0, to: Math.max(1, furthest) }, (event.deltaX || event.deltaY) / 400, furthest));
      zoom(event.deltaY > 0 ? 1.25 : 0.8, event.offsetX / place.clientWidth);
    };
    place.addEventListener('wheel', turn, { passive: false });
    return () => place.removeEventListener('wheel', turn);
  }, [zoom, furthest]);
  const keys = (event: React.KeyboardEvent): void => {
    const acts: Readonly<Record<string, () => void>> = {
      ArrowLeft: () => pan(-0.2),
      ArrowRight: () => pan(0.2),
      '+': () => zoom(0.5, 0.5),
      '-': () => zoom(2, 0.5),
      '0': () => setWanted(undefined),
      Home: () => pan(-Infinity),
      End: () => pan(Infinity),
      Enter: () => travel(tickAt(width / 2)),
    };
    const act = acts[event.key];
    if (!act || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  };
  const says = `The run so far, ticks ${grouped(Math.round(shown.from))} to ${grouped(Math.round(shown.to))} of ${grouped(furthest)}. Arrows move, plus and minus zoom, 0 shows all, Enter goes to the middle.`;
  return (
    <>
      <Box flex="1" minWidth="0" height={`${HEIGHT}px`}>
        <canvas
          ref={canvas}
          tabIndex={0}
          role="img"
          aria-label={says}
          title="Press to go there; drag and wheel, or arrows, + and −. Marked: ▾ output, ▴ input, ■ what came from outside, small bars calls and returns, flags stops"
          style={{ width: '100%', height: HEIGHT, cursor: 'pointer', display: 'block' }}
          data-testid="so-far-canvas"
          data-from={Math.round(shown.from)}
          data-to={Math.round(shown.to)}
          data-drawn={strip ? `${strip.from}:${strip.to}` : ''}
          onKeyDown={keys}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            drag.current = { x: event.nativeEvent.offsetX, stretch: shown, moved: false };
          }}
          onPointerMove={(event) => {
            const { current } = drag;
            if (!current) return;
            const by = (current.x - event.nativeEvent.offsetX) / width;
            if (Math.abs(by * width) > 3) current.moved = true;
            if (current.moved) setWanted(goOn(current.stretch, by, furthest));
          }}
          onPointerUp={(event) => {
            const { current } = drag;
            drag.current = undefined;
            if (current && !current.moved) travel(tickAt(event.nativeEvent.offsetX));
          }}
        />
      </Box>
      <Button look="bare" onClick={() => setWanted(undefined)} disabled={wanted === undefined} data-bench data-testid="so-far-whole">
        all {grouped(furthest)}
      </Button>
    </>
  );
}

interface Drawing {
  readonly machine: Machine;
  readonly strip: RunStrip;
  readonly ticks: number;
  readonly width: number;
}

function draw(canvas: HTMLCanvasElement, { machine, strip, ticks, width }: Drawing): void {
  const scale = window.devicePixelRatio;
  canvas.width = width * scale;
  canvas.height = HEIGHT * scale;
  const context = canvas.getContext('2d');
  if (!context) return;
  context.scale(scale, scale);
  const style = getComputedStyle(canvas);
  const colour = (name: string): string => style.getPropertyValue(`--z-colors-${name}`).trim();
  const families = new Map(machine.families.map((each) => [each.name, colour(TONES[each.tone])]));
  const fills = machine.forms.map((each) => families.get(each.family) ?? colour('edge'));
  const [ink, data, address, now] = ['ink', 'data', 'address', 'now'].map(colour) as [string, string, string, string];
  const { from, to, forms, phases, marks, names } = strip;
  const each = width / forms.length;
  for (let column = 0; column < forms.length; column++) {
    const form = forms[column]!;
    if (form < 0) continue;
    const x = column * each;
    context.fillStyle = fills[form]!;
    // What is fetched and decoded is lower than what is carried out.
    const height = each >= 2 ? BAND * (PHASE_HEIGHTS[phases[column]!] ?? 1) : BAND;
    context.fillRect(x, BAND - height, each >= 4 ? each - 1 : each + 0.5, height);
    const mark = marks[column]!;
    if (mark === 0) continue;
    const middle = x + each / 2;
    if (mark & WROTE) triangle(context, middle, BAND + 6, data, 1);
    if (mark & TOOK) triangle(context, middle, BAND + 6, address, -1);
    context.fillStyle = ink;
    if (mark & FROM_OUTSIDE) context.fillRect(middle - 2, BAND + 2, 4, 4);
    if (mark & STOPPED) {
      context.fillStyle = now;
      context.fillRect(middle - 1, 0, 2, BAND);
      context.fillRect(middle - 3, 0, 6, 4);
      context.fillStyle = ink;
    }
    if (mark & CALLED) context.fillRect(middle, BAND + 8, 1.5, 4);
    if (mark & CAME_BACK) context.fillRect(middle, BAND + 10, 1.5, 2);
  }
  context.font = '12px "Atkinson Hyperlegible Mono Variable", monospace';
  context.textBaseline = 'bottom';
  context.fillStyle = ink;
  names.forEach(({ tick, text }, at) => {
    const x = ((tick - from) / (to - from)) * width;
    const next = names[at + 1]?.tick ?? to;
    const room = ((next - tick) / (to - from)) * width;
    // With a gap to the next name.
    const letters = Math.floor((room - 11) / 7.3);
    context.fillText(wholeWords(text, letters), x + 1, HEIGHT);
  });
  if (ticks >= from && ticks <= to) {
    context.fillStyle = now;
    context.fillRect(((ticks - from) / (to - from)) * (width - 3), 0, 3, HEIGHT);
  }
}

function triangle(context: CanvasRenderingContext2D, x: number, y: number, fill: string, way: 1 | -1): void {
  context.fillStyle = fill;
  context.beginPath();
  context.moveTo(x - 3.5, y - 3 * way);
  context.lineTo(x + 3.5, y - 3 * way);
  context.lineTo(x, y + 3 * way);
  context.fill();
}
