/** Every written form of the machine, by family, to insert at the cursor; its blanks are filled one after another. */
import { useMemo, useState } from 'react';
import type { Offer } from '@zettak/core/assembler/assist/help';
import { useEditor } from '../../editor/handle';
import { insertOffer } from '../../editor/language';
import { useDocument } from '../document';

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
      <input
        className="search"
        type="search"
        aria-label="Find an operation"
        placeholder="find: add, jump, carry …"
        value={wanted}
        onChange={(event) => setWanted(event.target.value)}
        data-testid="find-operation"
      />
      {families.length === 0 && <p className="hint pad">Nothing of this machine is called so.</p>}
      {families.map(([family, list]) => (
        <section key={family} className="family">
          <h3>{family}</h3>
          <ul>
            {[...new Set(list.map((each) => each.mnemonic))].map((mnemonic) => (
              <Forms key={mnemonic} forms={list.filter((each) => each.mnemonic === mnemonic)} insert={insert} />
            ))}
          </ul>
        </section>
      ))}
    </>
  );
}

/** One operation: what it does, and a button for each way to write it. */
function Forms({ forms, insert }: { forms: readonly Offer[]; insert: (offer: Offer) => void }) {
  const [{ title, flags }] = forms as [Offer];
  return (
    <li className="forms">
      <span className="does">
        {title}
        {flags.length > 0 && <small title={`sets ${flags.join(', ')}`}>{flags.join(' ')}</small>}
      </span>
      {forms.map((each) => {
        const written = each.written.replace(/[{}]/g, '');
        return (
          <button key={written} type="button" onClick={() => insert(each)} title={each.sentence} data-offer={written}>
            <code>{written}</code>
          </button>
        );
      })}
    </li>
  );
}
