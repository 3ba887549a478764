/** Beside a machine's document: what is wrong with it, or what the machine amounts to. */
import { Box, chakra, Table } from '@chakra-ui/react';
import type { Form, Machine } from '@zettak/core/machine/model/machine';
import { patternText } from '@zettak/core/machine/model/opcodeMap';
import type { MachineCheck } from '@zettak/core/session/protocol';
import type { EditorHandle } from '../editor/handle';
import { ProblemList } from '../editor/ProblemList';
import { Hint, Panel, PanelHead, PanelTitle } from '../ui/Panel';
import { OpcodeMap } from './OpcodeMap';
import { itemAt } from '@zettak/core/text/itemAt';
import { plainWritten, spelledAs } from '@zettak/core/machine/model/spellings';

/** `errors`: how many of the problems are errors. */
export function Findings({ check, errors, editor }: { check: MachineCheck | undefined; errors: number; editor: EditorHandle }) {
  return (
    <Panel label="Problems" as="aside" overflow="auto">
      {check && <Found {...{ check, errors, editor }} />}
    </Panel>
  );
}

function Found({ check: { problems, machine }, errors, editor }: { check: MachineCheck; errors: number; editor: EditorHandle }) {
  return (
    <>
      <PanelHead>
        <PanelTitle>Problems</PanelTitle>
        <Hint ms="auto" role="status" data-testid="problem-count">
          {problems.length === 0 ? 'none' : `${errors} ${errors === 1 ? 'error' : 'errors'}, ${problems.length - errors} other`}
        </Hint>
      </PanelHead>
      <Box px="10px" py="4px">
        <ProblemList problems={problems} editor={editor} testId="machine-problems" />
      </Box>
      {machine && <OpcodeMap machine={machine} goTo={(form) => goToForm(editor, form)} />}
      {machine && <Summary machine={machine} />}
      {!machine && (
        <Hint as="p" px="12px" py="8px">
          The bench keeps the last version without errors. This draft is kept too, errors and all.
        </Hint>
      )}
    </>
  );
}

/** Puts the cursor where the form is written. */
function goToForm(editor: EditorHandle, { written }: Form): void {
  const text = editor.view?.state.doc.toString() ?? '';
  const at = [`write: '${written}'`, `write: "${written}"`, `write: ${written}`]
    .map((each) => text.indexOf(each))
    .find((each) => each !== -1);
  if (at !== undefined) editor.goToOffset(at);
}

const Short = chakra('div', {
  base: {
    px: '12px',
    py: '8px',
    borderTop: '1px solid',
    borderColor: 'line',
    '& p': { color: 'ink2', mb: '6px', whiteSpace: 'pre-line' },
    '& table': { tableLayout: 'fixed', fontFamily: 'mono', fontSize: '14px', mb: '8px' },
    '& caption': { fontFamily: 'body', lineHeight: '20px' },
    '& td': { px: '0', py: '0', lineHeight: '19px' },
    '& td + td': { textAlign: 'right', width: '72px', whiteSpace: 'nowrap', fontSize: '13px' },
  },
});

/** The operations that one row stands for, where names are part of it. */
function Spelled({ form, machine }: { form: Form; machine: Machine }) {
  const spelled = spelledAs(form, machine);
  if (spelled.length === 0) return null;
  return (
    <Hint as="span" display="block" whiteSpace="normal">
      {spelled.map(({ operation, means }, at) => (
        <span key={operation} title={means}>
          {at > 0 && ' '}
          {operation}
        </span>
      ))}
    </Hint>
  );
}

/** The machine in short: what it is made of, and every instruction with its first cell and tick count. */
function Summary({ machine }: { machine: Machine }) {
  const { cells } = itemAt(machine.spaces, machine.programSpace);
  const families = [...new Set(machine.forms.map((each) => each.family))];
  return (
    <Short data-testid="summary">
      <p>
        {machine.radix === 10 ? `words of ${machine.wordWidth} digits` : `${machine.wordWidth}-bit words`}, {cells} cells,{' '}
        {machine.registers.length} registers, flags {machine.flags.map((each) => each.name).join(' ') || 'none'}, {machine.forms.length}{' '}
        written forms.
      </p>
      {machine.words.notes && <p>{machine.words.notes}</p>}
      {families.map((family) => (
        <Table.Root key={family}>
          <Table.Caption captionSide="top">{family}</Table.Caption>
          <Table.Body>
            {machine.forms
              .filter((each) => each.family === family)
              .map((form) => (
                <Table.Row key={form.index} title={form.title}>
                  <Table.Cell>
                    {plainWritten(form)}
                    <Spelled form={form} machine={machine} />
                  </Table.Cell>
                  <Table.Cell color="data">{patternText(machine, form)}</Table.Cell>
                  <Table.Cell color="ink3">{form.schedule.length} ticks</Table.Cell>
                </Table.Row>
              ))}
          </Table.Body>
        </Table.Root>
      ))}
    </Short>
  );
}
