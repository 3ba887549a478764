/** Starts the page. */
import '@fontsource-variable/atkinson-hyperlegible-next/index.css';
import '@fontsource-variable/atkinson-hyperlegible-mono/index.css';

import { ChakraProvider } from '@chakra-ui/react';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter, Navigate, Route, Routes } from 'react-router';
import { Boundary } from './ui/Boundary';
import { startNight } from './app/Shell';
import { system } from './ui/theme';
import { BenchPage } from './bench/BenchPage';
import { MachinesPage } from './machines/MachinesPage';

startNight();

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <ChakraProvider value={system}>
      <BrowserRouter>
        <Routes>
          <Route
            path="/bench/:program?"
            element={
              <Boundary key="bench" what="The bench">
                <BenchPage />
              </Boundary>
            }
          />
          <Route
            path="/machines/:machine?"
            element={
              <Boundary key="machines" what="This screen">
                <MachinesPage />
              </Boundary>
            }
          />
          <Route path="*" element={<Navigate to="/bench" replace />} />
        </Routes>
      </BrowserRouter>
    </ChakraProvider>
  </StrictMode>,
);
