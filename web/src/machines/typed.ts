/** A field of the document while somebody types into it: it shows what is typed, and what the document says as soon as that changes otherwise. */
import { useEffect, useState } from 'react';
import type { Path } from '@zettak/core/machine/document/yaml';
import { useDefined, useDefining } from './defining';

export interface Typed {
  readonly value: string;
  readonly type: (value: string) => void;
  /** The field is left. */
  readonly leave: () => void;
}

/** `optional`: left empty, it is taken out of the document. `toText`: what the document is given for what is typed. */
export function useTyped(path: Path, said: string, { optional = true, toText = (value: string): string => value } = {}): Typed {
  const defining = useDefining();
  const turned = useDefined((state) => state.turned);
  const where = JSON.stringify(path);
  const [local, setLocal] = useState<string>();
  useEffect(() => setLocal(undefined), [turned, where]);
  return {
    value: local ?? said,
    type: (value) => {
      setLocal(value);
      defining.type(path, toText(value));
    },
    leave: () => {
      if (local === '' && optional) void defining.act({ kind: 'remove', path });
      setLocal(undefined);
    },
  };
}
