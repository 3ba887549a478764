/** A button that lets somebody choose a file of this computer. */
import { FileUpload } from '@chakra-ui/react';
import { Button } from './Button';

interface FileButtonProps {
  readonly words: string;
  readonly label: string;
  /** Endings that are offered, as in `.json`; without it all are. */
  readonly accept?: string;
  readonly take: (file: File) => void;
  readonly testId?: string;
}

export function FileButton({ words, label, accept, take, testId }: FileButtonProps) {
  return (
    <FileUpload.Root unstyled display="inline-flex" width="auto" maxFiles={1}>
      <FileUpload.Context>
        {({ clearFiles }) => (
          <FileUpload.HiddenInput
            aria-label={label}
            data-testid={testId}
            {...(accept !== undefined && { accept })}
            onChange={(event) => {
              const file = event.target.files?.[0];
              if (file) take(file);
              // The same file can be chosen again.
              clearFiles();
              event.target.value = '';
            }}
          />
        )}
      </FileUpload.Context>
      <FileUpload.Trigger asChild>
        <Button>{words}</Button>
      </FileUpload.Trigger>
    </FileUpload.Root>
  );
}
