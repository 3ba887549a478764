/** The colours, type of Zettak, as Chakra tokens: a nautical chart by day and by night. */
import { createSystem, defaultConfig, defineConfig } from '@chakra-ui/react';

const role = (light: string, dark: string) => ({ value: { _light: light, _dark: dark } });

const config = defineConfig({
  cssVarsPrefix: 'z',
  preflight: true,
  globalCss: {
    'html, body, #root': { height: '100%' },
    body: { bg: 'sea', color: 'ink', fontFamily: 'body', fontSize: '14px', lineHeight: '1.35', overflow: 'hidden' },
    '*:focus-visible': { outline: '3px solid', outlineColor: 'focus', outlineOffset: '1px' },
  },
  theme: {
    tokens: {
      fonts: {
        body: { value: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif" },
        heading: { value: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif" },
        mono: { value: "'Atkinson Hyperlegible Mono Variable', ui-monospace, monospace" },
      },
    },
    semanticTokens: {
      colors: {
        ink: role('#12263A', '#E6EEF3'),
        ink2: role('#4A5D70', '#B4C3CF'),
        ink3: role('#52667A', '#A3B4C2'),
        paper: role('#FFFFFF', '#16283A'),
        sea: role('#EEF4F7', '#0E1C2A'),
        sea2: role('#DCE9F0', '#20374B'),
        line: role('#C3D3DD', '#38526A'),
        edge: role('#7E93A5', '#7E97AB'),
        sand: role('#FBF3DC', '#2A2A1E'),
        sand2: role('#F0E2B8', '#4A4526'),
        sandline: role('#D9C58A', '#8C7D45'),
        wire: role('#9A8136', '#A5945A'),
        address: role('#0A6E7C', '#5CC5D3'),
        addressPale: role('#D7ECEF', '#123C44'),
        data: role('#A34505', '#F2A065'),
        dataPale: role('#FBE3D2', '#4A2B15'),
        now: role('#A2216B', '#F08CC0'),
        nowPale: role('#F9E6F0', '#45203A'),
        problem: role('#B3261E', '#FF9B92'),
        problemPale: role('#FBE5E3', '#4A1D1A'),
        ok: role('#276A42', '#7FCB9C'),
        bar: role('#12263A', '#081420'),
        barRaised: role('#1E3A56', '#1E3A56'),
        onBar: role('#FFFFFF', '#FFFFFF'),
        onBar2: role('#B9C9D6', '#B9C9D6'),
        onTone: role('#FFFFFF', '#10202E'),
        focus: role('#A2216B', '#F08CC0'),
      },
    },
  },
});

export const system = createSystem(defaultConfig, config);
