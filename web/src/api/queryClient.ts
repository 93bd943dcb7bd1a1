import { QueryClient } from '@tanstack/react-query';

import { ApiFailure } from './client';

/** What the application has asked the server for. */
export const client = new QueryClient({
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
