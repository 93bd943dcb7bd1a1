import '@fontsource-variable/hanken-grotesk/wght.css';
import './design/mantineStyles';
import './design/tokens.css';
import './design/global.css';

import { MantineProvider } from '@mantine/core';
import { QueryClientProvider } from '@tanstack/react-query';
import { startTransition, StrictMode, Suspense, useLayoutEffect } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, type DataRouter } from 'react-router';
import { RouterProvider } from 'react-router/dom';

import { referenceQuery } from './api/queries';
import { client } from './api/queryClient';
import { AccessEnded } from './app/AccessEnded';
import { CommandProvider } from './app/commands';
import { facesAfterFirstScreen, facesOfEarlierVisit } from './app/faces';
import { Pending } from './app/Pending';
import { routes } from './app/routes';
import { SettingsProvider } from './app/settings';
import { Failed } from './design/Failed';
import { later } from './design/Later';
import { resolver, theme } from './design/theme';
import { pause } from './start/pause';

/** What is to be said waits in its store until this is here. */
const Notifications = later(0, async () => (await import('@mantine/notifications')).Notifications);

const root = document.getElementById('root');
if (root === null) throw new Error('index.html has no #root');
/** Takes away what the page showed until the first screen was there, in the same moment. */
function FrameGone() {
  useLayoutEffect(() => document.getElementById('frame')?.remove(), []);
  return null;
}

const applicationAt = (router: DataRouter) => (
  <StrictMode>
    <FrameGone />
    <MantineProvider theme={theme} cssVariablesResolver={resolver} defaultColorScheme="auto">
      <QueryClientProvider client={client}>
        <Failed>
          <Suspense fallback={<Pending />}>
            <SettingsProvider>
              <Notifications position="bottom-center" />
              <CommandProvider>
                <AccessEnded>
                  <RouterProvider router={router} />
                </AccessEnded>
              </CommandProvider>
            </SettingsProvider>
          </Suspense>
        </Failed>
      </QueryClientProvider>
    </MantineProvider>
  </StrictMode>
);
/** Resolves when the code of the first screen is here. */
function opened({ state, subscribe }: DataRouter): Promise<void> {
  if (state.initialized) return Promise.resolve();
  return new Promise((resolve) => {
    const end = subscribe((now) => {
      if (!now.initialized) return;
      end();
      resolve();
    });
  });
}

async function draw(into: HTMLElement) {
  const hasFaces = facesOfEarlierVisit();
  await pause();
  const router = createBrowserRouter(routes);
  // The page itself holds what stands there meanwhile. A stand-in of React's own would be drawn first, and stay for 300 ms at least.
  await Promise.all([client.prefetchQuery(referenceQuery), opened(router)]);
  // In slices, so that a touch is answered while the first screen is drawn.
  startTransition(() => createRoot(into).render(applicationAt(router)));
  if (!hasFaces) facesAfterFirstScreen();
}

// Not awaited here: the code of a screen waits for this module.
void draw(root);
