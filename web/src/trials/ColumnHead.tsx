/** The head of a column, which can be taken out; and the one that makes another. */
import { Box } from '@chakra-ui/react';
import { Plus, X } from 'lucide-react';
import { memo, useId, useState } from 'react';
import { Button } from '../ui/Button';
import { addColumn, removeColumn } from './editing';
import { sayHere, useTrials } from './state';

const WORDS = { given: ['input'], expected: ['output', 'end', 'ticks', 'instructions'] } as const;

/** Drawn anew when its place is another one, and not whenever the table is scrolled. */
export const ColumnHead = memo(function ColumnHead({ of, place }: { of: 'given' | 'expected'; place?: string }) {
  if (place === undefined) return <NewColumn of={of} />;
  return (
    <th role="columnheader" className="place" title={place}>
      <span>{place}</span>
      <Button look="bare" aria-label={`Take out ${place} (${of})`} onClick={() => removeColumn(of, place)}>
        <X size={12} aria-hidden />
      </Button>
    </th>
  );
});

function NewColumn({ of }: { of: 'given' | 'expected' }) {
  const [naming, setNaming] = useState(false);
  const [name, setName] = useState('');
  const list = useId();
  const places = useTrials((state) => state.tried?.facts?.places);
  const devices = useTrials((state) => state.tried?.facts?.machine.devices);
  const offers = [...WORDS[of], ...(places ?? []), ...(of === 'expected' ? (devices ?? []).map((each) => `sequence of ${each.name}`) : [])];
  const take = async (): Promise<void> => {
    const problem = await addColumn(of, name);
    if (problem !== undefined) return sayHere(problem);
    sayHere('');
    setName('');
    setNaming(false);
  };
  if (!naming)
    return (
      <th role="columnheader" className="add">
        <Button
          look="bare"
          aria-label={`Another place ${of}`}
          tip={of === 'given' ? 'Give something to another place' : 'Expect something of another place'}
          onClick={() => setNaming(true)}
          data-testid={`add-${of}`}
        >
          <Plus size={14} aria-hidden />
        </Button>
      </th>
    );
  return (
    <th role="columnheader" className="add">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void take();
        }}
      >
        <Box
          as="input"
          className="naming"
          {...{ value: name, list, maxLength: 200, autoFocus: true, placeholder: of === 'given' ? 'level, input …' : 'level, output …' }}
          aria-label={`Place that is ${of}`}
          data-testid={`place-${of}`}
          onChange={(event: React.ChangeEvent<HTMLInputElement>) => setName(event.target.value)}
          onKeyDown={(event: React.KeyboardEvent) => event.key === 'Escape' && setNaming(false)}
          onBlur={() => name.trim() === '' && setNaming(false)}
        />
        <datalist id={list}>
          {offers.map((each) => (
            <option key={each} value={each} />
          ))}
        </datalist>
      </form>
    </th>
  );
}
