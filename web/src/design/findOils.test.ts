import { describe, expect, it } from 'vitest';

import type { OilSummary } from '../api/types';
import { matching, splitAmount } from './findOils';

describe('splitAmount', () => {
  it.each([
    ['shea', 'shea', ''],
    ['shea 5', 'shea', '5'],
    ['shea butter 5 %', 'shea butter', '5 %'],
    ['12,5 palm kernel', 'palm kernel', '12,5'],
    ['5% shea', 'shea', '5%'],
    ['olive 1 lb 3 oz', 'olive', '1 lb 3 oz'],
    ['olive 350g', 'olive', '350g'],
    ['', '', ''],
  ])('splits %j', (text, words, amount) => {
    expect(splitAmount(text)).toEqual({ words, amount });
  });
});

describe('matching', () => {
  const oil = (id: string, name: string, ...synonyms: string[]) => ({ id, name, synonyms }) as unknown as OilSummary;
  const oils = [oil('palm', 'Palm'), oil('palm-kernel', 'Palm kernel'), oil('canola', 'Canola', 'rapeseed')];

  it('finds by name, by synonym and by several words', () => {
    expect(matching(oils, 'rape').map(({ id }) => id)).toEqual(['canola']);
    expect(matching(oils, 'kernel palm').map(({ id }) => id)).toEqual(['palm-kernel']);
    expect(matching(oils, 'PALM').map(({ id }) => id)).toEqual(['palm', 'palm-kernel']);
    expect(matching(oils, '')).toHaveLength(3);
    expect(matching(oils, 'petrol')).toEqual([]);
    const lots = [oil('own-lot', 'Canola, lot 3'), ...oils];
    expect(matching(lots, 'canola').map(({ id }) => id)).toEqual(['canola', 'own-lot']);
  });
});
