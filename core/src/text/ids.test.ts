import { freeId, plainId } from './ids';

test.each([
  ['High Water', 'high-water'],
  ['  — High   water! ', 'high-water'],
  ['Flut über Süd', 'flut-u-ber-su-d'],
  ['§', 'untitled'],
  ['', 'untitled'],
  ['../../etc/passwd', 'etc-passwd'],
  ['x'.repeat(300), 'x'.repeat(60)],
])('%j is %s in an address', (name, id) => {
  expect(plainId(name)).toBe(id);
});

test('an id that is taken gets the first number that is free', () => {
  expect(freeId('quay', new Set())).toBe('quay');
  expect(freeId('quay', new Set(['quay', 'quay-2', 'quay-4']))).toBe('quay-3');
});
