import 'fake-indexeddb/auto';
/** What a browser has and jsdom has not, and the address that the screens ask. */
import { notifications } from '@mantine/notifications';
import { cleanup, configure } from '@testing-library/react';
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
// jsdom calculates styles for every question whether something is hidden; nothing here asks that.
configure({ defaultHidden: true, asyncUtilTimeout: 5000 });

Element.prototype.scrollIntoView = () => undefined;
Object.defineProperty(document, 'fonts', { value: Object.assign(new EventTarget(), { load: () => Promise.resolve([]) }) });
Blob.prototype.text = function text(this: Blob) {
  return new Promise((read) => {
    const reader = new FileReader();
    reader.onload = () => read(String(reader.result));
    reader.readAsText(this);
  });
};

afterEach(async () => {
  cleanup();
  notifications.clean();
  mend();
  localStorage.clear();
  await quiet();
  await archiveWhatWasMade();
});
