/** The right of the bench: memory, registers, flags and why they are as they are. */
import type { ReactNode } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { shownDigits, signedReading } from '@zettak/core/text/number';
import { readsRegister, writeOf } from '../datapath/touched';
import { Memory } from './Memory';
import { boxOf } from './PlaceMenu';
import { readings } from './readings';
import type { View } from '@zettak/core/session/protocol';
import { useDocument } from './document';
import { askAbout } from './looks';
import { selectFlag, useRun } from './run';

export function StatePanel() {
  const machine = useDocument((state) => state.machine);
  const view = useRun((state) => state.view);
  if (!machine || !view) return <section className="panel state" aria-label="State" />;
  return (
    <section className="panel state" aria-label="State">
      <Memory machine={machine} view={view} />
      <Registers machine={machine} view={view} />
      <Flags machine={machine} view={view} />
    </section>
  );
}

function Registers({ machine, view }: { machine: Machine; view: View }) {
  const moving = useRun((state) => state.motion !== undefined);
  const last = moving ? undefined : view.last;
  const { radix } = machine;
  return (
    <div className={machine.registers.length + machine.composites.length > 9 ? 'block registers many' : 'block registers'}>
      <header>
        <h2>Registers</h2>
        <span className="hint">{machine.radix === 10 ? 'digits, signed' : 'hex, unsigned, signed'}</span>
      </header>
      <table data-testid="registers">
        <tbody>
          {machine.registers.map(({ name, title, width, role, array }, register) => {
            const value = view.registers[register]!;
            const change = writeOf(last, register);
            const whole = change && change.width === width && change.before !== change.value;
            const read = readsRegister(last, register);
            return (
              <tr key={name} className={change ? 'written' : read ? 'read' : ''} title={`${title}: ${readings(value, width, radix)}`}>
                <th scope="row">
                  <button
                    type="button"
                    data-bench
                    onClick={(event) =>
                      askAbout({ place: array ? name.replace(/\W/g, '') : name, name, cell: false, at: boxOf(event.currentTarget) })
                    }
                    title={`${title}: set it, stop at it, or ask who wrote it`}
                  >
                    {name}
                  </button>
                </th>
                <td className="hex">
                  {whole && <s>{shownDigits(change.before, width, radix)}</s>}
                  <b data-value={name}>{shownDigits(value, width, radix)}</b>
                </td>
                {radix === 2 && <td>{value}</td>}
                <td>
                  {role === 'program counter'
                    ? (view.next.text ?? '').split(' ')[0]
                    : String(signedReading(value, width, radix)).replace('-', '−')}
                </td>
              </tr>
            );
          })}
          {machine.composites.map(({ name, title, width }, at) => (
            <tr key={name} className="composite" title={`${title}: ${readings(view.composites[at]!, width, radix)}`}>
              <th scope="row">{name}</th>
              <td className="hex">
                <b data-value={name}>{shownDigits(view.composites[at]!, width, radix)}</b>
              </td>
              {radix === 2 && <td>{view.composites[at]}</td>}
              <td>{String(signedReading(view.composites[at]!, width, radix)).replace('-', '−')}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Flags({ machine, view }: { machine: Machine; view: View }) {
  const moving = useRun((state) => state.motion !== undefined);
  const last = moving ? undefined : view.last;
  const { why } = view;
  if (machine.flags.length === 0) return null;
  return (
    <div className="block flags">
      <header>
        <h2>Flags</h2>
        <span className="hint">click one: why?</span>
      </header>
      <div className="row" data-testid="flags">
        {machine.flags.map(({ name, title }, flag) => {
          const set = view.flags[flag] === 1;
          const change = last?.flags.find((each) => each.flag === flag);
          const changed = change !== undefined && change.before !== change.after;
          return (
            <button
              key={name}
              type="button"
              data-bench
              className={[set ? 'set' : '', changed ? 'changed' : '', why?.flag === flag ? 'asked' : ''].join(' ')}
              aria-pressed={why?.flag === flag}
              aria-label={`${title}: ${view.flags[flag]}${changed ? ', just changed' : ''}`}
              title={`${title}. Why is it ${view.flags[flag]}?`}
              onClick={() => selectFlag(flag)}
              data-flag={name}
            >
              <b>{view.flags[flag]}</b>
              {name}
            </button>
          );
        })}
      </div>
      {why && (
        <Why reason={why.reason}>
          <button
            type="button"
            className="plain"
            data-bench
            onClick={(event) => {
              const { name } = machine.flags[why.flag]!;
              askAbout({ place: name, name, cell: false, at: boxOf(event.currentTarget) });
            }}
            data-testid="flag-menu"
          >
            Set or stop at {machine.flags[why.flag]!.name}
          </button>
        </Why>
      )}
    </div>
  );
}

function Why({ reason, children }: { reason: NonNullable<View['why']>['reason']; children: ReactNode }) {
  const digits = Math.max(0, ...reason.columns.map((each) => each.binary.length));
  return (
    <div className={digits > 12 ? 'why wide' : 'why'} data-testid="why">
      {reason.columns.length > 0 && (
        <table>
          <tbody>
            {reason.columns.map((each, at) => (
              <tr key={at} className={each.role}>
                <td>{each.sign}</td>
                {digits <= 24 && <td className="binary">{each.binary}</td>}
                <td>{each.hex}</td>
                <td>{each.decimal}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p>
        {reason.sentence} {children}
      </p>
    </div>
  );
}
