import { demoProgram } from '../testing/demo';
import { bench } from '../testing/bench';

const goTo = (session: ReturnType<typeof bench>['session'], tick: number): void => session.run.current!.runner.timeline.reach(tick);

test('a link leads to the same run at the same tick', () => {
  const one = bench(demoProgram('quay watch'));
  expect(one.session.hand.setPlace('level', '0xB7', 16)).toBeUndefined();
  goTo(one.session, 20);
  const link = one.session.files.linked();
  if ('refused' in link) throw new Error(link.refused);
  const other = bench(demoProgram('quay watch'));
  expect(other.session.files.openLinked(link.text)).toEqual({ said: '' });
  const [a, b] = [one, other].map((each) => each.session.run.current!.runner.state);
  expect([b!.control.ticks, [...b!.registers], [...b!.spaces[0]!]]).toEqual([20, [...a!.registers], [...a!.spaces[0]!]]);
});

test('a link past the end, to rubbish, or with lines that mean nothing here says so', () => {
  const { session } = bench(demoProgram('quay watch'));
  expect(session.files.openLinked('{"script":"","tick":9000,"kept":[]}').said).toBe(
    'The link leads to tick 9000; this run has no more than 50.',
  );
  expect(session.files.openLinked('no JSON').said).toContain('says nothing');
  expect(session.files.openLinked('{"script":"level gets 3","tick":0,"kept":[]}').said).toContain('cannot be followed here');
  expect(session.files.openLinked('{"script":"","tick":0,"kept":[[9,9,9]]}').said).toContain('outside the memory');
});
