/** What an assignment asks for, and with what it is checked. */
import { Box } from '@chakra-ui/react';
import { isFrozen } from '@zettak/core/trials/handIns/frozen';
import { Button } from '../ui/Button';
import { Hint, PanelHead, PanelTitle } from '../ui/Panel';
import { useClass } from './state';

/** As this computer writes times. */
export const timeText = (at: string): string =>
  new Date(at).toLocaleString([], { weekday: 'short', day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });

export function AssignmentFacts({ settings }: { settings: () => void }) {
  const assignment = useClass((state) => state.matrix?.assignment);
  const sets = useClass((state) => state.matrix?.sets);
  if (!assignment || !sets) return null;
  const { name, problem, machineName, machineVersion, frame, mostTicks, mostCells, opensAt, closesAt } = assignment;
  const hidden = sets.filter((each) => each.hidden).length;
  const frozen = frame.split('\n').filter(isFrozen).length;
  return (
    <Box as="section" aria-label="The assignment">
      <PanelHead>
        <PanelTitle>Assignment</PanelTitle>
        <Box flex="1" />
        <Button onClick={settings} data-testid="settings">
          Settings …
        </Button>
      </PanelHead>
      <Box px="12px" py="8px" fontSize="14px" lineHeight="21px" data-testid="facts">
        <Box fontWeight="700">{name}</Box>
        {problem !== '' && <Box mb="6px">{problem}</Box>}
        <Hint as="p">
          {machineName}, version {machineVersion} (kept for ever)
        </Hint>
        <p>
          {sets.length - hidden} shown and {hidden} hidden {sets.length === 1 ? 'set' : 'sets'}
        </p>
        {mostTicks !== null && <p>at most {mostTicks.toLocaleString('en-US')} ticks each</p>}
        {mostCells !== null && <p>at most {mostCells.toLocaleString('en-US')} cells</p>}
        {frozen > 0 && <p>frame: {frozen} lines stay as they are</p>}
        {opensAt !== null && <p>opens {timeText(opensAt)}</p>}
        {closesAt !== null && <p>closes {timeText(closesAt)}</p>}
        <Box as="ol" mt="6px" pl="22px" fontSize="13px" color="ink2" listStyleType="decimal">
          {sets.map((each) => (
            <li key={each.name} title={each.purpose}>
              {each.name}
              {each.hidden ? ', hidden' : ''}
            </li>
          ))}
        </Box>
      </Box>
    </Box>
  );
}
