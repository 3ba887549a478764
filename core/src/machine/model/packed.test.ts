import { curlew, machineNamed } from '../../testing/demo';
import { packedBits } from './packed';

const bitsOf = (name: string, word: string): string => {
  const machine = machineNamed(name);
  const composite = machine.composites.find((each) => each.name === word)!;
  return packedBits(composite)!
    .map((each) => ('flag' in each ? machine.flags[each.flag]!.name : String(each.fixed)))
    .join('');
};

test('a packed word is told bit by bit, fixed ones with their digit', () => {
  expect(bitsOf('gannet', 'SR')).toBe('000000000000NZCV');
  expect(bitsOf('avocet', 'FW')).toBe('1N00Z00C');
});

test('pairs are no packed words', () => {
  for (const each of curlew.composites) expect(packedBits(each)).toBeUndefined();
});
