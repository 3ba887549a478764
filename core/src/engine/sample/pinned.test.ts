import { demoMachines, machineFrom } from '../../testing/demo';
import { NOTHING_GIVEN } from './bed';
import { exampleFrom, pinnedState } from './pinned';
import { tryForm } from './sample';

test.each(demoMachines.map((each) => [each.name, machineFrom(each.text)] as const))(
  '%s: whatever is pinned holds as long as nothing changes',
  (_, machine) => {
    for (const form of machine.forms) {
      const sample = tryForm(machine, form, NOTHING_GIVEN)!;
      if (sample.ended === 'fault') continue;
      const example = exampleFrom(machine, sample);
      expect({ form: form.written, ...example, ...pinnedState(machine, form, example) }).toMatchObject({ holds: true, says: '' });
    }
  },
);

const curlew = machineFrom(demoMachines[0]!.text);
const add = curlew.forms.find((each) => each.written === 'ADD {address}')!;

test.each<[string, string, string, boolean, RegExp]>([
  ['holds', 'address=0x30 ACC=0x5A, M[0x30]=0xB7', 'ACC=0x11 flags.C=1', true, /^$/],
  ['does not', 'address=48 ACC=90 M[48]=183', 'ACC=0x12 flags.C=1', false, /^ACC is 0x11, not 0x12$/],
  ['names what there is not', 'address=48 ACD=1', 'ACC=1', false, /^There is no “ACD” any more\.$/],
  ['names a cell outside', 'M[999]=1', 'ACC=1', false, /^There is no “M\[999\]” any more\.$/],
  ['cannot be read', 'ACC 5', 'ACC=1', false, /^“ACC” is no place with a value/],
  ['says nothing of what is not touched', 'address=48 ACC=1 M[48]=2 X=7', 'X=7 ACC=3', true, /^$/],
])('an example %s', (_, before, after, holds, says) => {
  const state = pinnedState(curlew, add, { before, after });
  expect(state.says).toMatch(says);
  expect(state.holds).toBe(holds);
});
