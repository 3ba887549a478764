/** Which warnings and remarks are told; errors always are. */
import { CHECKS } from '@zettak/core/assembler/check/checks';
import { switchCheck, useText } from '../text';
import { Hint, Item, List } from '../../ui/Panel';
import { Check } from '../../ui/Check';
import { Box } from '@chakra-ui/react';

export function ChecksTab() {
  const off = useText((state) => state.checksOff);
  const problems = useText((state) => state.listing.problems);
  return (
    <>
      <Hint as="p">Warnings and remarks are told when …</Hint>
      <List>
        {CHECKS.map(({ code, says }) => {
          const found = problems.filter((each) => each.code === code).length;
          return (
            <Item key={code}>
              <Check flex="1" on={!off.includes(code)} change={(on) => void switchCheck(code, on)} testId={`check-${code}`}>
                {says}
              </Check>
              {found > 0 && (
                <Box as="b" ms="auto" color="now" title={`${found} in this program`}>
                  {found}
                </Box>
              )}
            </Item>
          );
        })}
      </List>
    </>
  );
}
