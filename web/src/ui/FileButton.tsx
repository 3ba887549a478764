/** A button that lets somebody choose a file of this computer, or several. */
import { FileUpload } from '@chakra-ui/react';
import { Button, type ButtonLook } from './Button';

interface Common {
  readonly words: string;
  readonly label: string;
  /** Endings that are offered, as in `.json`; without it all are. */
  readonly accept?: string;
  readonly testId?: string;
  readonly look?: ButtonLook;
}

type FileButtonProps = Common &
  (
    | { readonly several?: false; readonly take: (file: File) => void }
    | { readonly several: true; readonly take: (files: readonly File[]) => void }
  );

export function FileButton({ words, label, accept, testId, look = 'plain', ...rest }: FileButtonProps) {
  return (
    <FileUpload.Root unstyled display="inline-flex" width="auto" maxFiles={rest.several ? 500 : 1}>
      <FileUpload.Context>
        {({ clearFiles }) => (
          <FileUpload.HiddenInput
            aria-label={label}
            data-testid={testId}
            {...(accept !== undefined && { accept })}
            onChange={(event) => {
              const files = [...(event.target.files ?? [])];
              const [file] = files;
              if (file) void (rest.several ? rest.take(files) : rest.take(file));
              // The same file can be chosen again.
              clearFiles();
              event.target.value = '';
            }}
          />
        )}
      </FileUpload.Context>
      <FileUpload.Trigger asChild>
        <Button look={look}>{words}</Button>
      </FileUpload.Trigger>
    </FileUpload.Root>
  );
}
