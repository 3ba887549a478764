/** What one part of a screen cannot show leaves the others alive: a sentence, a way on, and the text of the fault to copy. */
import { Box, Flex, Text } from '@chakra-ui/react';
import { Component, type ReactNode } from 'react';
import { Button } from './Button';

interface Parts {
  /** What it is that could not be shown, as in “The memory”. */
  readonly what: string;
  readonly children: ReactNode;
}

export class Boundary extends Component<Parts, { readonly error?: Error | undefined }> {
  override state: { readonly error?: Error | undefined } = {};

  static getDerivedStateFromError(error: Error): { error: Error } {
    return { error };
  }

  override render(): ReactNode {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <Fault
        sentence={`${this.props.what} could not be shown. What you typed is kept.`}
        text={error.stack ?? error.message}
        onward={{ words: 'Show it again', act: () => this.setState({ error: undefined }) }}
      />
    );
  }
}

interface FaultParts {
  readonly sentence: string;
  /** To be copied. */
  readonly text: string;
  readonly onward: { readonly words: string; readonly act: () => void };
}

/** The text can be copied; `onward` is what to do now. */
export function Fault({ sentence, text, onward }: FaultParts) {
  return (
    <Box role="alert" p="3" m="2" bg="problemPale" border="1px solid" borderColor="problem" data-testid="fault">
      <Text>{sentence}</Text>
      <Flex gap="3" mt="2" wrap="wrap">
        <Button onClick={onward.act}>{onward.words}</Button>
        <Button onClick={() => void navigator.clipboard?.writeText(text)}>Copy the text of the fault</Button>
      </Flex>
      <Box as="pre" mt="2" fontSize="12px" maxHeight="140px" overflow="auto" whiteSpace="pre-wrap">
        {text.slice(0, 2000)}
      </Box>
    </Box>
  );
}
