import { beforeEach, describe, expect, it, vi } from 'vitest';

import { followed, keepOutbox, recallOutbox, type Waiting } from './outbox';

const kept = new Map<string, string>();
const burst: Waiting = { key: 'a', afterSeq: 3, event: { kind: 'burst' } };

beforeEach(() => {
  kept.clear();
  vi.stubGlobal('localStorage', {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => kept.set(key, value),
    removeItem: (key: string) => kept.delete(key),
  });
});

describe('the outbox', () => {
  it('keeps what is waiting for its own batch and nothing else', () => {
    keepOutbox('one', [burst]);
    expect(recallOutbox('one')).toEqual([burst]);
    expect(recallOutbox('other')).toEqual([]);
    keepOutbox('one', []);
    expect(kept.size).toBe(0);
  });

  it('starts empty when what is stored cannot be read', () => {
    kept.set('sapolin.outbox.one', '{not json');
    expect(recallOutbox('one')).toEqual([]);
  });
});

describe('followed', () => {
  it('goes along with what this screen added itself', () => {
    const own = new Map([
      [3, 4],
      [4, 5],
    ]);
    expect(followed(3, own)).toBe(5);
    expect(followed(7, own)).toBe(7);
    expect(followed(null, own)).toBeNull();
  });
});
