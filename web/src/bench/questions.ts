/** Looks at a run done again on the side: whether its last tick wrote a place. */
import type { WatchedPlace } from '@zettak/core/engine/breaks';
import type { Side } from '@zettak/core/engine/history';
import { deviceLatch, portLatch } from '@zettak/core/engine/state';
import { CELL, FLAG, LATCH, REGISTER } from '@zettak/core/engine/writes';
import type { Machine } from '@zettak/core/machine/machine';

export function lastWritten(machine: Machine, place: WatchedPlace): (side: Side) => boolean {
  const wanted = {
    register: () => [REGISTER, 'register' in place ? place.register : 0],
    flag: () => [FLAG, 'flag' in place ? place.flag : 0],
    cell: () => [CELL, 'space' in place ? place.space : 0],
    port: () => [LATCH, 'port' in place ? portLatch(place.port) : 0],
    device: () => [LATCH, 'device' in place ? deviceLatch(machine, place.device, 'value') : 0],
  }[place.kind]();
  const address = place.kind === 'cell' ? place.address : undefined;
  return ({ executor: { writes } }) => {
    for (let at = 0; at < writes.count; at++) {
      const { kind, index, place: where } = writes.at(at);
      if (kind === wanted[0] && index === wanted[1] && (address === undefined || where === address)) return true;
    }
    return false;
  };
}
