/** The new name for the name at the cursor. */
import { useEffect, useState } from 'react';
import { useEditor } from '../editor/handle';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Entry, Label } from '../ui/Field';
import { Controls } from '../ui/Panel';
import { say, useText } from './text';

export function RenameBar() {
  const renaming = useText((state) => state.renaming);
  const editor = useEditor();
  const [name, setName] = useState('');
  useEffect(() => setName(renaming?.name ?? ''), [renaming]);
  if (!renaming) return null;
  const close = (): void => {
    useText.setState({ renaming: undefined });
    editor.focus();
  };
  const apply = async (): Promise<void> => {
    const { source } = useText.getState();
    const result = await engine.texts.rename(source, renaming.offset, name.trim());
    if ('refused' in result) return say(result.refused);
    if (useText.getState().source === source) editor.applyEdits(result.edits);
    say(undefined);
    close();
  };
  return (
    <Controls
      as="form"
      mt="0"
      px="12px"
      py="6px"
      borderTop="1px solid"
      borderColor="line"
      onSubmit={(event) => {
        event.preventDefault();
        void apply();
      }}
    >
      <Label>
        Rename “{renaming.name}” to{' '}
        <Entry
          autoFocus
          value={name}
          maxLength={60}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => event.key === 'Escape' && close()}
          data-testid="rename"
        />
      </Label>
      <Button type="submit">everywhere</Button>
      <Button onClick={close}>cancel</Button>
    </Controls>
  );
}
