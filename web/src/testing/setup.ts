import 'fake-indexeddb/auto';
/** What a browser has and jsdom has not, and the address that the screens ask. */
import { notifications } from '@mantine/notifications';
import { cleanup, configure, prettyDOM } from '@testing-library/react';
import * as React from 'react';
import { afterEach, inject, vi } from 'vitest';

import { archiveWhatWasMade } from './made';
import { mend, network, quiet } from './network';

declare global {
  var jsdom: { reconfigure: (settings: { url: string }) => void };
}

const servers = inject('servers');
const own = servers[(Number(process.env.VITEST_POOL_ID ?? '1') - 1) % servers.length];
globalThis.jsdom.reconfigure({ url: `${own}/` });

vi.stubGlobal('fetch', (asked: RequestInfo | URL, init?: RequestInit) => network.answer(asked, init));
// jsdom lays nothing out, so there is nothing to scroll.
vi.stubGlobal('scrollTo', () => undefined);
vi.stubGlobal('matchMedia', (query: string) => ({
  matches: false,
  media: query,
  addEventListener: () => undefined,
  removeEventListener: () => undefined,
  addListener: () => undefined,
  removeListener: () => undefined,
}));
vi.stubGlobal(
  'ResizeObserver',
  class {
    observe() {}
    unobserve() {}
    disconnect() {}
  },
);
// jsdom calculates styles for every question whether something is hidden; nothing here asks that. What is waited for is looked
// for many times: the whole page is printed once, when a test has failed.
configure({ defaultHidden: true, asyncUtilTimeout: 5000, getElementError: (message) => new Error(message ?? 'not found') });
// For a debugger React notes at each element who drew it, a tenth of all time here: until it has noted enough for a second.
const internals = React as unknown as { __CLIENT_INTERNALS_DO_NOT_USE_OR_WARN_USERS_THEY_CANNOT_UPGRADE: object };
Object.defineProperty(internals.__CLIENT_INTERNALS_DO_NOT_USE_OR_WARN_USERS_THEY_CANNOT_UPGRADE, 'recentlyCreatedOwnerStacks', {
  get: () => Infinity,
  set: () => undefined,
});

Element.prototype.scrollIntoView = () => undefined;
Object.defineProperty(document, 'fonts', { configurable: true, value: Object.assign(new EventTarget(), { load: () => Promise.resolve([]) }) });
Blob.prototype.text = function text(this: Blob) {
  return new Promise((read) => {
    const reader = new FileReader();
    reader.onload = () => read(reader.result as string);
    reader.readAsText(this);
  });
};

afterEach(async ({ task }) => {
  if (task.result?.state === 'fail') console.info(prettyDOM(document.body));
  cleanup();
  notifications.clean();
  mend();
  localStorage.clear();
  await quiet();
  await archiveWhatWasMade();
});
