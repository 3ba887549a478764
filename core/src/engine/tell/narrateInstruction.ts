/** The sentence of a whole instruction: what it did from end to end, without the registers that values only passed through. */
import type { Machine, Role } from '../../machine/model/machine';
import { itemAt } from '../../text/itemAt';
import type { ReadValue, TickReport, Transfer } from '../meaning/report';
import { narrate, untouchedSentence } from './narrate';
import { text, type Segment, type Telling } from './telling';

/** Registers that only carry what lies elsewhere. */
const CARRIERS: ReadonlySet<Role | undefined> = new Set<Role>(['memory address', 'memory data', 'instruction']);

/** `reports`: of all its ticks, first to last; undefined where there are none. */
export function narrateInstruction(telling: Telling, reports: readonly TickReport[]): Segment[] | undefined {
  if (reports.length === 0) return undefined;
  const { machine } = telling;
  const carried = new Map<number, ReadValue>();
  const sentences: Segment[][] = [];
  for (const report of reports) {
    const resolved = report.transfers.map((each) => throughCarriers(each, carried));
    for (const each of resolved) note(machine, each, carried);
    const own = report.part === 'execute' || report.part === 'enter';
    const { compared } = report;
    const told: TickReport = {
      ...{ ...report, condition: isWritten(machine, report) ? undefined : report.condition },
      ...{ transfers: resolved.filter((each) => own && !isCarrier(machine, each)) },
      ...(compared && { compared: { ...compared, sources: compared.sources.map((each) => fromBefore(each, carried)) } }),
    };
    if (saysSomething(told)) sentences.push(narrate({ ...telling, asked: undefined }, told, 'done'));
  }
  if (sentences.length === 0) return [text('Only an address moved.')];
  if (telling.asked?.untouched)
    sentences.push(
      untouchedSentence(
        telling,
        reports.flatMap((each) => each.flags),
      ),
    );
  return sentences.filter((each) => each.length > 0).flatMap((each, at) => (at === 0 ? each : [text(' '), ...each]));
}

/** What was decoded and fetched is not told again. */
function saysSomething({
  part,
  transfers,
  service,
  condition,
  compared,
  marks,
  flags,
  halted,
  fault,
  trapped,
  guard,
}: TickReport): boolean {
  if (part !== 'execute' && part !== 'enter') return fault !== undefined;
  const told = transfers.some((each) => each.route !== 'service' && each.target.kind !== 'flag');
  const more = [service, condition, compared, fault].some((each) => each !== undefined) || Boolean(trapped);
  return told || more || marks.length > 0 || flags.length > 0 || halted || (guard !== undefined && !guard.holds);
}

/** The instruction itself says which way its condition goes, as where a digit of it chooses between two sets of registers. */
const isWritten = (machine: Machine, { condition, transfers }: TickReport): boolean =>
  transfers.length > 0 &&
  condition !== undefined &&
  condition.readings.some((each) => each.place) &&
  condition.readings.every(
    ({ place }) => !place || (place.kind === 'register' && itemAt(machine.registers, place.register).role === 'instruction'),
  );

const roleOf = (machine: Machine, { target }: Transfer): Role | undefined =>
  target.kind === 'register' ? itemAt(machine.registers, target.register).role : undefined;

/** What is worked out into a temporary register is told; what is only put there is on its way. */
const isCarrier = (machine: Machine, transfer: Transfer): boolean => {
  const role = roleOf(machine, transfer);
  return CARRIERS.has(role) || (role === 'temporary' && transfer.route === 'straight');
};

/** Values come from where they were before something carried them. */
const throughCarriers = (transfer: Transfer, carried: ReadonlyMap<number, ReadValue>): Transfer => ({
  ...transfer,
  sources: transfer.sources.map((each) => fromBefore(each, carried)),
  parts: transfer.parts?.map((each) => {
    const from = fromBefore(each, carried);
    // Of some digits of a carrier the carrier is told: what it carried has others, too.
    return from.width === each.width ? from : each;
  }),
});

function fromBefore(value: ReadValue, carried: ReadonlyMap<number, ReadValue>): ReadValue {
  // A field of the instruction is what people see of it.
  // A pair is told whole: what its halves came from is told of each.
  if (value.place?.kind !== 'register' || value.name !== undefined) return value;
  const from = carried.get(value.place.register);
  return from !== undefined && from.value === value.value ? from : value;
}

function note(machine: Machine, transfer: Transfer, carried: Map<number, ReadValue>): void {
  if (transfer.target.kind !== 'register') return;
  const [source, more] = transfer.sources;
  const only = isCarrier(machine, transfer) && transfer.route === 'straight' && !more ? source : undefined;
  if (only) carried.set(transfer.target.register, only);
  else carried.delete(transfer.target.register);
}
