import { MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render, screen } from '@testing-library/react';
import userEvent, { type UserEvent } from '@testing-library/user-event';
import { Suspense, type ReactNode } from 'react';
import { createMemoryRouter, Outlet, RouterProvider, useLocation } from 'react-router';

import { answered, api, ApiFailure } from '../api/client';
import { CommandProvider } from '../app/commands';
import { SettingsProvider } from '../app/settings';
import { theme } from '../design/theme';

function once<T>(ask: () => Promise<T>): () => Promise<T> {
  let asked: Promise<T> | null = null;
  return () => (asked ??= ask());
}

const reference = once(() => answered(api.GET('/api/reference')));
const oils = once(() => answered(api.GET('/api/oils')));

interface Place {
  /** Where the maker is. */
  at?: string;
  /** The route that draws it, when it takes parameters. */
  route?: string;
}

/** Draw something as the application does, and wait for what it needs; returns the maker's hands. */
export async function show(ui: ReactNode, { at = '/', route = '*' }: Place = {}) {
  const client = new QueryClient({
    defaultOptions: { queries: { retry: (count, error) => count < 2 && error instanceof ApiFailure && error.status === 0, retryDelay: 50 } },
  });
  // What every screen waits for is there at once: React holds back what was suspended for a third of a second.
  client.setQueryData(['reference'], await reference());
  client.setQueryData(['oils'], await oils());
  client.setQueryData(['materials', false], await answered(api.GET('/api/materials')));
  const router = createMemoryRouter(
    [
      {
        element: <Placed />,
        children: [
          { path: route, element: ui },
          { path: '*', element: null },
        ],
      },
    ],
    { initialEntries: [at] },
  );
  const user = userEvent.setup({ delay: null, pointerEventsCheck: 0 });
  const drawn = render(
    <MantineProvider theme={theme} env="test">
      <QueryClientProvider client={client}>
        <Suspense fallback={null}>
          <SettingsProvider>
            <Notifications />
            <CommandProvider>
              <RouterProvider router={router} />
            </CommandProvider>
          </SettingsProvider>
        </Suspense>
      </QueryClientProvider>
    </MantineProvider>,
  );
  await screen.findByTestId('ready', {}, { timeout: 10_000 });
  return { user, client, ...drawn };
}

/** Empty a field and type into it. */
export async function retype(user: UserEvent, field: HTMLElement, text: string): Promise<void> {
  await user.clear(field);
  await user.type(field, text);
}

function Placed() {
  return (
    <>
      <span data-testid="ready" />
      <Address />
      <Outlet />
    </>
  );
}

function Address() {
  const { pathname, search } = useLocation();
  return <span data-testid="address">{pathname + search}</span>;
}

/** Where the maker is now. */
export function address(): string {
  return screen.getByTestId('address').textContent ?? '';
}
