/** Examples that are pinned to an instruction: they are tried at every change, and tell when they no longer hold. */
import { memo } from 'react';
import { chakra, Flex } from '@chakra-ui/react';
import { Check as Holds, Trash2, X } from 'lucide-react';
import { exampleFrom } from '@zettak/core/engine/sample/pinned';
import { Button } from '../ui/Button';
import { Hint } from '../ui/Panel';
import { machineIn, plainAt, textAt, useDefined, useDefinedSame, useDefining } from './defining';

interface ExamplesProps {
  readonly name: string;
  readonly at: number;
}

export const Examples = memo(function Examples({ name, at }: ExamplesProps) {
  const defining = useDefining();
  const path = ['instructions', name, 'forms', at, 'examples'];
  const written = useDefinedSame((state) => {
    const list = plainAt(state.look?.document, path);
    return Array.isArray(list)
      ? list.map(
          (_, index) =>
            [textAt(state.look?.document, [...path, index, 'before']), textAt(state.look?.document, [...path, index, 'after'])] as const,
        )
      : [];
  });
  const states = useDefinedSame((state) => (state.sound?.pinned ?? []).filter((each) => each.mnemonic === name && each.form === at));
  const pinnable = useDefined((state) => (state.sound?.tried?.[at]?.ended ?? 'fault') !== 'fault');
  const pin = (): void => {
    const machine = machineIn(defining.state);
    const tried = defining.state.sound?.tried?.[at];
    if (!tried || !machine) return;
    const value = { ...exampleFrom(machine, tried) };
    void defining.act(
      written.length === 0 ? { kind: 'set', path, value: [value] } : { kind: 'insert', path: [...path, written.length], value },
    );
  };
  const remove = (index: number): void => void defining.act({ kind: 'remove', path: written.length === 1 ? path : [...path, index] });
  return (
    <chakra.div mt="8px" borderTop="1px solid" borderColor="line" pt="6px" data-testid="examples">
      <Flex gap="8px" align="center">
        <Hint>{written.length === 0 ? 'Pinned, these values are tried at every change.' : 'Pinned examples'}</Hint>
        <Button look="tag" onClick={pin} disabled={!pinnable} data-testid="pin">
          Pin these values
        </Button>
      </Flex>
      {written.map(([before, after], index) => {
        const state = states.find((each) => each.at === index);
        return (
          <Flex key={index} gap="8px" align="baseline" fontSize="13px" py="2px" data-holds={state?.holds}>
            {state &&
              (state.holds ? (
                <Holds size={14} aria-label="holds" />
              ) : (
                <X size={14} aria-label="no longer holds" color="var(--z-colors-problem)" />
              ))}
            <chakra.span fontFamily="mono" flex="1">
              {before} → {after}
              {state && !state.holds && (
                <chakra.span fontFamily="body" color="problem" ms="8px">
                  {state.says}
                </chakra.span>
              )}
            </chakra.span>
            <Button
              look="link"
              onClick={() => state?.given && defining.give(name, at, state.given)}
              disabled={!state?.given}
              aria-label={`Try example ${index + 1}`}
            >
              try
            </Button>
            <Button look="tag" onClick={() => remove(index)} aria-label={`Remove example ${index + 1}`}>
              <Trash2 size={13} aria-hidden />
            </Button>
          </Flex>
        );
      })}
    </chakra.div>
  );
});
