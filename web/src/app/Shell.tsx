/** The frame of every screen: name, the screens that exist, and room for a screen's own controls. */
import { Box, chakra, Flex } from '@chakra-ui/react';
import { Moon, Sun } from 'lucide-react';
import { useState } from 'react';
import { NavLink } from 'react-router';
import { Button } from '../ui/Button';
import { Hidden } from '../ui/Panel';
import { mode } from './mode';
import { useNewer } from './newer';
import { keep, kept } from './preferences';

const NIGHT = 'night';
/** Puts on the colours that were chosen last. */
export const startNight = (): void => void document.documentElement.classList.toggle('dark', kept(NIGHT) === 'yes');

const ScreenLink = chakra(NavLink, {
  base: {
    color: 'onBar2',
    pt: '12px',
    pb: '9px',
    borderBottom: '3px solid transparent',
    textDecoration: 'none',
    _hover: { color: 'onBar' },
    '&.active': { color: 'onBar', borderColor: 'barMark', fontWeight: '600' },
  },
});

interface ShellProps {
  /** For whoever cannot see the page. */
  readonly title: string;
  /** In the bar. */
  readonly controls?: React.ReactNode;
  /** Without the bar. */
  readonly bare?: boolean;
  readonly children: React.ReactNode;
}

export function Shell({ title, controls, bare = false, children }: ShellProps) {
  return (
    <Flex direction="column" height="100%" className="room">
      <Flex
        as="header"
        display={bare ? 'none' : 'flex'}
        align="center"
        gap="4"
        px="3"
        height="46px"
        flexShrink="0"
        bg="bar"
        color="onBar"
        css={{ '--z-colors-focus': '#FFB3DA' }}
      >
        <Box fontSize="17px" fontWeight="750">
          Zettak
        </Box>
        <Flex as="nav" aria-label="Screens" gap="3">
          {mode().screens.map((each) => (
            <ScreenLink key={each.to} to={each.to}>
              {each.says}
            </ScreenLink>
          ))}
        </Flex>
        {controls}
        <Newer />
        <NightSwitch />
      </Flex>
      <Box as="main" flex="1" minHeight="0" position="relative">
        <Hidden as="h1">{title}</Hidden>
        {children}
      </Box>
    </Flex>
  );
}

/** Offered, and never forced: whoever is at work goes on with what is open. */
function Newer() {
  const takeOver = useNewer((state) => state.takeOver);
  if (!takeOver) return null;
  return (
    <Button look="barLine" onClick={takeOver} tip="Your work is kept" data-testid="newer">
      Newer version: load it
    </Button>
  );
}

function NightSwitch() {
  const [night, setNight] = useState(document.documentElement.classList.contains('dark'));
  const turn = () => {
    document.documentElement.classList.toggle('dark', !night);
    keep(NIGHT, night ? 'no' : 'yes');
    setNight(!night);
  };
  const words = night ? 'Day colours' : 'Night colours';
  return (
    <Button look="barIcon" onClick={turn} aria-label={words} tip={words}>
      {night ? <Sun size={16} aria-hidden /> : <Moon size={16} aria-hidden />}
    </Button>
  );
}
