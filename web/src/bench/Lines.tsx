/** The lines of a device, each a switch that a hand can set; a change holds from the present tick on. */
import { engine } from '../session/engine';
import type { ShownDevice } from '@zettak/core/session/protocol';
import { useDocument } from './document';

export function Lines({ device: { name, title, kind, value, width, lines } }: { device: ShownDevice }) {
  const radix = useDocument((state) => state.machine?.radix ?? 2);
  if (kind !== 'switches') return null;
  const named = lines.length > 0 ? lines : Array.from({ length: width }, (_, bit) => [String(bit), bit] as const);
  return (
    <div className="switches" role="group" aria-label={title} data-testid={`switches-${name}`}>
      {named.map(([line, bit]) => {
        const unit = radix ** bit;
        const on = Math.floor(value / unit) % radix !== 0;
        return (
          <button
            key={line}
            type="button"
            data-bench
            aria-pressed={on}
            onClick={() => void engine.hand.setSwitches(name, on ? value - unit : value + unit)}
          >
            {on ? '●' : '○'} {line}
          </button>
        );
      })}
    </div>
  );
}
