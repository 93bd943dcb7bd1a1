import { beforeEach, describe, expect, it, vi } from 'vitest';

import { followed, forgetFromOutbox, keepInOutbox, recallOutbox, type Waiting } from './outbox';

const burst = (key: string, at = 1): Waiting => ({ key, afterSeq: 3, event: { kind: 'burst' }, at });

beforeEach(() => {
  const kept = new Map<string, string>();
  vi.stubGlobal('localStorage', {
    get length() {
      return kept.size;
    },
    key: (i: number) => [...kept.keys()][i] ?? null,
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => kept.set(key, value),
    removeItem: (key: string) => kept.delete(key),
  });
});

describe('the outbox', () => {
  it('keeps what is waiting for its own batch and nothing else', () => {
    keepInOutbox('one', burst('a'));
    expect(recallOutbox('one')).toEqual([burst('a')]);
    expect(recallOutbox('other')).toEqual([]);
    forgetFromOutbox('one', 'a');
    expect(localStorage.length).toBe(0);
  });

  it('keeps what two tabs put there, in the order of their times', () => {
    keepInOutbox('one', burst('of this tab', 2));
    keepInOutbox('one', burst('of the other', 1));
    expect(recallOutbox('one').map((one) => one.key)).toEqual(['of the other', 'of this tab']);
    forgetFromOutbox('one', 'of this tab');
    expect(recallOutbox('one').map((one) => one.key)).toEqual(['of the other']);
  });

  it('passes over what cannot be read, and takes along what an earlier release kept', () => {
    localStorage.setItem('sapolin.outbox.one.b', '{not json');
    localStorage.setItem('sapolin.outbox.one', JSON.stringify([{ key: 'old', afterSeq: null, event: { kind: 'burst' } }]));
    expect(recallOutbox('one').map((one) => one.key)).toEqual(['old']);
    forgetFromOutbox('one', 'old');
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
