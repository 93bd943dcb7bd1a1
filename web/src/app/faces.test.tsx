import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import { facesAfterFirstScreen, facesOfEarlierVisit } from './faces';

/** What a browser does with typefaces, as far as it matters here. */
class Face {
  constructor(
    readonly family: string,
    readonly source: string,
  ) {}
  load = () => (Face.cannotBeHad ? Promise.reject(new Error('no network')) : Promise.resolve(this));
  static cannotBeHad = false;
}

describe('typefaces of headings and results', () => {
  let set: Face[];
  const families = () => [...new Set(set.map((one) => one.family))];

  beforeEach(() => {
    vi.useFakeTimers();
    localStorage.clear();
    set = [];
    Face.cannotBeHad = false;
    vi.stubGlobal('FontFace', Face);
    Object.defineProperty(document, 'fonts', { configurable: true, value: { add: (face: Face) => set.push(face) } });
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });

  it('come after the first screen of a first visit', async () => {
    expect(facesOfEarlierVisit()).toBe(false);
    facesAfterFirstScreen();
    await vi.advanceTimersByTimeAsync(1400);
    expect(families()).toEqual([]);
    await vi.advanceTimersByTimeAsync(200);
    expect(families()).toEqual(['Bricolage Grotesque Variable', 'Spline Sans Mono Variable']);
  });

  it('are there at once on the next', async () => {
    facesAfterFirstScreen();
    await vi.advanceTimersByTimeAsync(1600);
    const first = set.length;
    expect(facesOfEarlierVisit()).toBe(true);
    expect(set).toHaveLength(2 * first);
  });

  it('are fetched anew on the next visit when they could not be had', async () => {
    Face.cannotBeHad = true;
    facesAfterFirstScreen();
    await vi.advanceTimersByTimeAsync(1600);
    expect(facesOfEarlierVisit()).toBe(false);
  });
});
