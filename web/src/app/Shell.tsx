/** The frame of every screen: name, the screens that exist, and room for a screen's own controls. */
import { Box, chakra, Flex } from '@chakra-ui/react';
import { ChevronDown, LogOut, Moon, Sun } from 'lucide-react';
import { useState } from 'react';
import { NavLink, useNavigate } from 'react-router';
import { ActionMenu } from '../ui/ActionMenu';
import { Button } from '../ui/Button';
import { Hidden } from '../ui/Panel';
import { useDoor } from './door';
import { mode } from './mode';
import { useNewer } from './newer';
import { keep, kept } from './preferences';
import { textOf } from './textOf';

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
  /** So many that on a small screen the names of the other screens go into a menu. */
  readonly crowded?: boolean;
  /** Without the bar. */
  readonly bare?: boolean;
  readonly children: React.ReactNode;
}

export function Shell({ title, controls, crowded = false, bare = false, children }: ShellProps) {
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
        <Screens title={title} folds={crowded && mode().screens.length > MOST_BESIDE} />
        {controls}
        <Newer />
        <SignOut />
        <NightSwitch />
      </Flex>
      <Box as="main" flex="1" minHeight="0" position="relative">
        <Hidden as="h1">{title}</Hidden>
        {children}
      </Box>
    </Flex>
  );
}

/** Names of screens that always have room beside the controls of one. */
const MOST_BESIDE = 3;

function Screens({ title, folds }: { title: string; folds: boolean }) {
  const { screens } = mode();
  const navigate = useNavigate();
  return (
    <Box as="nav" aria-label="Screens" flexShrink="0">
      <Flex gap="3" {...(folds && { hideBelow: '2xl' })}>
        {screens.map((each) => (
          <ScreenLink key={each.to} to={each.to}>
            {each.says}
          </ScreenLink>
        ))}
      </Flex>
      {folds && (
        <Box hideFrom="2xl">
          <ActionMenu
            label={`${title}: to another screen`}
            look="barLine"
            testId="screens"
            actions={screens.map(({ to, says }) => ({ id: to, says, act: () => void navigate(to) }))}
          >
            {title} <ChevronDown size={14} aria-hidden />
          </ActionMenu>
        </Box>
      )}
    </Box>
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

function SignOut() {
  const signOut = useDoor((state) => state.signOut);
  const [failure, setFailure] = useState<string>();
  if (!signOut) return null;
  const leave = (): void => void signOut().catch((error: unknown) => setFailure(textOf(error)));
  return (
    <Button
      look="barIcon"
      onClick={leave}
      aria-label="Sign out"
      tip={failure ?? 'Sign out: this browser forgets what it has seen here'}
      data-testid="sign-out"
    >
      <LogOut size={16} aria-hidden />
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
