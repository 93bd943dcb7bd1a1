import { beforeEach, describe, expect, it, vi } from 'vitest';

import { forgetUnsaved, isSame, keepUnsaved, leftUnsaved, recallUnsaved, type Unsaved } from './unsaved';

const unsaved = (path: string, patch: Partial<Unsaved> = {}): Unsaved => ({
  database: '', page: path.replace('/api', ''), path, name: 'Bar', revision: 3, content: { name: 'Bar' }, past: [], future: [], unread: {}, at: Date.now(), ...patch,
});

function store(kept: Map<string, string>) {
  return {
    get length() {
      return kept.size;
    },
    key: (i: number) => [...kept.keys()][i] ?? null,
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => kept.set(key, value),
    removeItem: (key: string) => kept.delete(key),
    clear: () => kept.clear(),
  };
}

const shared = new Map<string, string>();

/** Go on as another tab: what is kept is shared, who one is is not. */
function openTab(session = new Map<string, string>()) {
  vi.stubGlobal('localStorage', store(shared));
  vi.stubGlobal('sessionStorage', store(session));
  return session;
}

beforeEach(() => {
  shared.clear();
  openTab();
});

describe('what is not saved yet', () => {
  it('is there again when the tab is loaded anew', () => {
    const session = openTab();
    keepUnsaved(unsaved('/api/formulas/a'));
    openTab(session);
    expect(recallUnsaved('/api/formulas/a')?.[1].revision).toBe(3);
    forgetUnsaved('/api/formulas/a');
    expect(leftUnsaved()).toEqual([]);
  });

  it('of a tab that is still open is left to that tab', () => {
    keepUnsaved(unsaved('/api/formulas/a'));
    openTab();
    expect(recallUnsaved('/api/formulas/a')).toBeNull();
  });

  it('of a tab that is gone go to the next, and are forgotten there once it is saved', () => {
    keepUnsaved(unsaved('/api/formulas/a', { at: Date.now() - 60_000, content: { name: 'left behind' } }));
    openTab();
    const [place, left] = recallUnsaved('/api/formulas/a') ?? [];
    expect(left?.content).toEqual({ name: 'left behind' });
    forgetUnsaved('/api/formulas/a', place);
    expect(shared.size).toBe(0);
  });

  it('of two tabs do not overwrite one another', () => {
    keepUnsaved(unsaved('/api/formulas/a', { content: 'of one' }));
    const other = openTab();
    keepUnsaved(unsaved('/api/formulas/a', { content: 'of the other' }));
    expect(shared.size).toBe(2);
    openTab(other);
    expect(recallUnsaved('/api/formulas/a')?.[1].content).toBe('of the other');
  });

  it('that cannot be read is passed over', () => {
    shared.set('sapolin.unsaved.x /api/formulas/a', '{not json');
    expect(leftUnsaved()).toEqual([]);
  });
});

describe('isSame', () => {
  it('does not mind the order of entries, but that of lists', () => {
    expect(isSame({ a: 1, b: [{ c: 2, d: null }] }, { b: [{ d: null, c: 2 }], a: 1 })).toBe(true);
    expect(isSame([1, 2], [2, 1])).toBe(false);
    expect(isSame({ a: 1 }, { a: 2 })).toBe(false);
  });
});
