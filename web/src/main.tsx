import '@fontsource-variable/bricolage-grotesque/wght.css';
import '@fontsource-variable/hanken-grotesk/wght.css';
import '@fontsource-variable/spline-sans-mono/wght.css';
import '@mantine/core/styles.css';
import '@mantine/notifications/styles.css';
import '@mantine/spotlight/styles.css';
import './design/tokens.css';
import './design/global.css';

import { MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter, Route, Routes } from 'react-router';

import { ApiFailure } from './api/client';
import { BatchDesk } from './batch/BatchDesk';
import { BatchList } from './batch/BatchList';
import { SheetView } from './batch/SheetView';
import { Bench } from './bench/Bench';
import { FormulaList } from './formulas/FormulaList';
import { MakeDay } from './make/MakeDay';
import { Shelf } from './shelf/Shelf';
import { Solve } from './solve/Solve';
import { Swap } from './swap/Swap';
import { Trials } from './compare/Compare';
import { CommandProvider } from './app/commands';
import { Failed } from './design/Failed';
import { Missing } from './app/Missing';
import { SettingsProvider } from './app/settings';
import { Shell } from './app/Shell';
import { resolver, theme } from './design/theme';

const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => count < 3 && error instanceof ApiFailure && error.status === 0,
      refetchOnWindowFocus: false,
      // The server is on this machine: whether the browser is on a network says nothing about it.
      networkMode: 'always',
    },
    mutations: { networkMode: 'always' },
  },
});

const root = document.getElementById('root');
if (root === null) throw new Error('index.html has no #root');
createRoot(root).render(
  <StrictMode>
    <MantineProvider theme={theme} cssVariablesResolver={resolver} defaultColorScheme="auto">
      <QueryClientProvider client={client}>
        <Failed>
          <Suspense fallback={null}>
            <SettingsProvider>
              <Notifications position="bottom-center" />
              <CommandProvider>
                <BrowserRouter>
                  <Routes>
                    <Route path="batches/:batchId/make" element={<MakeDay />} />
                    <Route element={<Shell />}>
                      <Route index element={<FormulaList />} />
                      <Route path="formulas/:formulaId" element={<Bench />} />
                      <Route path="formulas/:formulaId/swap" element={<Swap />} />
                      <Route path="formulas/:formulaId/solve" element={<Solve />} />
                      <Route path="batches" element={<BatchList />} />
                      <Route path="batches/:batchId" element={<BatchDesk />} />
                      <Route path="batches/:batchId/sheet" element={<SheetView />} />
                      <Route path="trials" element={<Trials />} />
                      <Route path="shelf" element={<Shelf />} />
                      <Route
                        path="*"
                        element={<Missing title="There is no such page" message="The address may have a slip in it." />}
                      />
                    </Route>
                  </Routes>
                </BrowserRouter>
              </CommandProvider>
            </SettingsProvider>
          </Suspense>
        </Failed>
      </QueryClientProvider>
    </MantineProvider>
  </StrictMode>,
);
