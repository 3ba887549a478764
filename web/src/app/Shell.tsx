/** The frame of every screen: name, the screens that exist, and room for a screen's own controls. */
import { Box, Flex } from '@chakra-ui/react';
import { Moon, Sun } from 'lucide-react';
import { useState } from 'react';
import { NavLink } from 'react-router';
import { keep, kept } from './preferences';

const NIGHT = 'night';
export const startNight = (): void => void document.documentElement.classList.toggle('dark', kept(NIGHT) === 'yes');

export function Shell({ title, controls, children }: { title: string; controls?: React.ReactNode; children: React.ReactNode }) {
  return (
    <Flex direction="column" height="100%">
      <Flex as="header" className="bar" align="center" gap="4" px="3" height="46px" flexShrink="0" bg="bar" color="onBar">
        <Box fontSize="17px" fontWeight="750">
          Zettak
        </Box>
        <Flex as="nav" aria-label="Screens" gap="3">
          <NavLink to="/machines">Machines</NavLink>
          <NavLink to="/bench">Bench</NavLink>
        </Flex>
        {controls}
        <NightSwitch />
      </Flex>
      <Box as="main" flex="1" minHeight="0" position="relative">
        <h1 className="sr-only">{title}</h1>
        {children}
      </Box>
    </Flex>
  );
}

function NightSwitch() {
  const [night, setNight] = useState(document.documentElement.classList.contains('dark'));
  const turn = () => {
    document.documentElement.classList.toggle('dark', !night);
    keep(NIGHT, night ? 'no' : 'yes');
    setNight(!night);
  };
  return (
    <button
      type="button"
      className="bar-icon"
      onClick={turn}
      aria-label={night ? 'Day colours' : 'Night colours'}
      title={night ? 'Day colours' : 'Night colours'}
    >
      {night ? <Sun size={16} aria-hidden /> : <Moon size={16} aria-hidden />}
    </button>
  );
}
