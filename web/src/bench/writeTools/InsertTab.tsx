/** Every written form of the machine, by family, to insert at the cursor; its blanks are filled one after another. */
import { useMemo, useState } from 'react';
import type { Offer } from '@zettak/core/assembler/assist/help';
import { useEditor } from '../../editor/handle';
import { insertOffer } from '../../editor/language';
import { useDocument } from '../document';
import { Button } from '../../ui/Button';
import { Entry } from '../../ui/Field';
import { Heading, Hint, List } from '../../ui/Panel';
import { chakra } from '@chakra-ui/react';

export function InsertTab() {
  const offers = useDocument((state) => state.help.offers);
  const editor = useEditor();
  const [wanted, setWanted] = useState('');
  const families = useMemo(() => {
    const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
    const found = offers.filter((each) =>
      words.every((word) => `${each.written} ${each.title} ${each.family}`.toLowerCase().includes(word)),
    );
    return [...new Set(found.map((each) => each.family))].map(
      (family) => [family, found.filter((each) => each.family === family)] as const,
    );
  }, [offers, wanted]);
  const insert = (offer: Offer): void => {
    if (editor.view) insertOffer(editor.view, offer);
  };
  return (
    <>
      <Entry
        room="wide"
        type="search"
        aria-label="Find an operation"
        placeholder="find: add, jump, carry …"
        value={wanted}
        onChange={(event) => setWanted(event.target.value)}
        data-testid="find-operation"
      />
      {families.length === 0 && <Hint as="p">Nothing of this machine is called so.</Hint>}
      {families.map(([family, list]) => (
        <section key={family}>
          <Heading>{family}</Heading>
          <List>
            {[...new Set(list.map((each) => each.mnemonic))].map((mnemonic) => (
              <Forms key={mnemonic} forms={list.filter((each) => each.mnemonic === mnemonic)} insert={insert} />
            ))}
          </List>
        </section>
      ))}
    </>
  );
}

/** One operation: what it does, and a button for each way to write it. */
function Forms({ forms, insert }: { forms: readonly Offer[]; insert: (offer: Offer) => void }) {
  const [{ title, flags }] = forms as [Offer];
  return (
    <Ways>
      <span className="does">
        {title}
        {flags.length > 0 && <small title={`sets ${flags.join(', ')}`}>{flags.join(' ')}</small>}
      </span>
      {forms.map((each) => {
        const written = each.written.replace(/[{}]/g, '');
        return (
          <Button look="tag" key={written} onClick={() => insert(each)} title={each.sentence} data-offer={written}>
            <code>{written}</code>
          </Button>
        );
      })}
    </Ways>
  );
}

const Ways = chakra('li', {
  base: {
    display: 'flex',
    flexWrap: 'wrap',
    columnGap: '5px',
    rowGap: '3px',
    pt: '4px',
    pb: '6px',
    '& .does': { flexBasis: '100%', display: 'flex', gap: '10px', color: 'ink2' },
    '& small': { fontFamily: 'mono', fontSize: '13px', color: 'ink3', marginInlineStart: 'auto', whiteSpace: 'nowrap' },
    '& code': { fontFamily: 'mono', fontWeight: '650' },
  },
});
