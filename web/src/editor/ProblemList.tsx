/** Problems as a list to walk through: a press goes there, and mends where a mend exists. */
import { chakra } from '@chakra-ui/react';
import { CircleAlert, Info, TriangleAlert } from 'lucide-react';
import { mendsOf, type Grade, type Problem } from '@zettak/core/text/diagnostic';
import { Button } from '../ui/Button';
import { Hint } from '../ui/Panel';
import type { EditorHandle } from './handle';

const ICONS = { error: CircleAlert, warning: TriangleAlert, remark: Info } satisfies Record<Grade, unknown>;
const WORDS = { error: 'Error', warning: 'Warning', remark: 'Remark' } satisfies Record<Grade, string>;
const MOST = 60;

interface Parts {
  readonly problems: readonly Problem[];
  /** Holds the text that the problems belong to. */
  readonly editor: EditorHandle;
  /** Where a press on a problem leads, by its place in the list; else to its place in the text. */
  readonly goTo?: (at: number) => void;
  readonly testId: string;
}

/** At most sixty; the others are counted. */
export function ProblemList({ problems, editor, goTo, testId }: Parts) {
  return (
    <List as="ul" data-testid={testId}>
      {problems.slice(0, MOST).map((each, at) => {
        const Icon = ICONS[each.grade];
        return (
          <li key={at} data-grade={each.grade}>
            <Button look="row" onClick={() => (goTo ? goTo(at) : editor.goToSpan(each.start, each.end))}>
              <Icon size={15} aria-label={WORDS[each.grade]} />
              <span>
                <b>
                  Line {each.line}, column {each.column}.
                </b>{' '}
                {each.sentence}
              </span>
            </Button>
            {each.related?.map((place) => (
              <Button key={place.start} look="link" ms="20px" title={place.note} onClick={() => editor.goToSpan(place.start, place.end)}>
                line {place.line}: {place.note}
              </Button>
            ))}
            {mendsOf(each).map((mend) => (
              <Button key={mend.title} look="link" ms="20px" className="mend" onClick={() => editor.applyEdits(mend.edits)}>
                {mend.title}
              </Button>
            ))}
          </li>
        );
      })}
      {problems.length > MOST && <Hint as="li">and {problems.length - MOST} more</Hint>}
    </List>
  );
}

const List = chakra('ul', {
  base: {
    listStyle: 'none',
    '& svg': { flexShrink: '0', mt: '2px' },
    '& [data-grade=error] :is(svg, b)': { color: 'problem' },
  },
});
