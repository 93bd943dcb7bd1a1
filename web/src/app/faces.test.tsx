import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import { ownFaces } from './faces';

describe('typefaces of headings and results', () => {
  const faces = () => document.documentElement.dataset.faces;

  beforeEach(() => {
    vi.useFakeTimers();
    localStorage.clear();
    delete document.documentElement.dataset.faces;
  });
  afterEach(() => vi.useRealTimers());

  it('come after the first screen of a first visit', async () => {
    ownFaces(false);
    expect(faces()).toBeUndefined();
    ownFaces(true);
    expect(faces()).toBeUndefined();
    await vi.advanceTimersByTimeAsync(1500);
    expect(faces()).toBe('own');
  });

  it('are there at once on the next', async () => {
    ownFaces(true);
    await vi.advanceTimersByTimeAsync(1500);
    delete document.documentElement.dataset.faces;
    ownFaces(false);
    expect(faces()).toBe('own');
  });
});
