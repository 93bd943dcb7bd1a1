import '@fontsource-variable/bricolage-grotesque/wght.css';
import '@fontsource-variable/hanken-grotesk/wght.css';
import '@fontsource-variable/spline-sans-mono/wght.css';
import './design/mantineStyles';
import './design/tokens.css';
import './design/global.css';

import { MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter } from 'react-router';
import { RouterProvider } from 'react-router/dom';

import { ApiFailure } from './api/client';
import { CommandProvider } from './app/commands';
import { Pending } from './app/Pending';
import { routes } from './app/routes';
import { SettingsProvider } from './app/settings';
import { Failed } from './design/Failed';
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
const router = createBrowserRouter(routes);

const root = document.getElementById('root');
if (root === null) throw new Error('index.html has no #root');
createRoot(root).render(
  <StrictMode>
    <MantineProvider theme={theme} cssVariablesResolver={resolver} defaultColorScheme="auto">
      <QueryClientProvider client={client}>
        <Failed>
          <Suspense fallback={<Pending />}>
            <SettingsProvider>
              <Notifications position="bottom-center" />
              <CommandProvider>
                <RouterProvider router={router} />
              </CommandProvider>
            </SettingsProvider>
          </Suspense>
        </Failed>
      </QueryClientProvider>
    </MantineProvider>
  </StrictMode>,
);
