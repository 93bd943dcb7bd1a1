import { describe, expect, it } from 'vitest';

import type { Formula, OilSummary, SwapCandidate } from '../api/types';
import { startingFormula } from '../testing/startingFormula';
import { asking, impliedBy, inWords, type Asked } from './question';

function blendOf(shares: Record<string, number>, free_of: Formula['free_of'] = []): Formula {
  const lines = Object.entries(shares).map(([oil, value]) => ({
    oil,
    by: 'percent_of_oils' as const,
    value,
    locked: false,
    added: 'start' as const,
  }));
  return { ...startingFormula(), free_of, blend: { total_oils_g: 1000, lines } };
}

/** On principle, `out` goes. */
function taking(out: string, free_of: Asked['free_of'] = []): Asked {
  return {
    outgoing: [{ oil: out, keep_percent: 0 }], reason: 'principle', school: 'profile_and_role', at_hand: [], into_target_ranges: true, others: 'locked',
    within_points: 6, most_replacements: 2, free_of, pool: null, forbidden: [], with_specialties: false, prices: {}, step_percent: 1,
  };
}

describe('a swap in words', () => {
  const REASONS = [{ value: 'principle', label: 'on principle', meaning: '' }];
  const oils = [
    { id: 'palm', name: 'Palm' },
    { id: 'own-3', name: 'Farm lard' },
  ] as OilSummary[];
  const candidate = {
    incoming: [
      { oil: 'tallow', name: 'Tallow', share_percent: 22.5 },
      { oil: 'cocoa', name: 'Cocoa butter', share_percent: 8 },
    ],
    moved: [{ oil: 'coconut', name: 'Coconut', share_percent: 2 }],
  } as SwapCandidate;

  it('names what goes, why, what comes, what moves and what it stays free of', () => {
    const formula = blendOf({ palm: 30, 'own-3': 10 }, ['palm']);
    const asked = {
      ...taking('palm'),
      outgoing: [
        { oil: 'palm', keep_percent: 0 },
        { oil: 'own-3', keep_percent: 2.5 },
      ],
      free_of: ['palm' as const, 'tree nuts' as const],
    };
    expect(inWords(candidate, asked, formula, oils, REASONS)).toBe(
      'palm out and farm lard down to 2.5 % (on principle): tallow 22.5, cocoa butter 8, coconut +2. Without palm, tree nuts.',
    );
  });

  it('says nothing of what did not move', () => {
    const formula = blendOf({ palm: 30 });
    const still = { ...candidate, moved: [] };
    expect(inWords(still, taking('palm'), formula, oils, REASONS)).toBe(
      'palm out (on principle): tallow 22.5, cocoa butter 8.',
    );
  });
});

describe('what a reason rules out among what comes in', () => {
  /** By the reason for which it goes; a vegan bar takes nothing from animals, whatever goes. */
  const oil = (id: string, ruledOut: Partial<OilSummary['ruled_out']> = {}) =>
    ({ id, name: id, ruled_out: { principle: [], allergy: [], vegan: ['animal'], out_of_stock: [], price: [], ...ruledOut } }) as unknown as OilSummary;
  const oils = [
    oil('palm', { principle: ['palm'] }),
    oil('lard', { principle: ['animal'] }),
    oil('almond', { allergy: ['tree nuts'] }),
    oil('olive'),
  ];
  const words = ['palm', 'animal', 'tree nuts', 'soy'];

  it.each([
    ['principle', ['palm'], ['palm']],
    ['principle', ['lard', 'palm'], ['palm', 'animal']],
    ['principle', ['olive'], []],
    ['allergy', ['almond'], ['tree nuts']],
    ['allergy', ['palm'], []],
    ['vegan', ['olive'], ['animal']],
    ['price', ['palm', 'lard', 'almond'], []],
    ['out_of_stock', ['palm'], []],
  ] as const)('%s, taking out %j: %j', (reason, going, expected) => {
    expect(impliedBy(reason, going, oils, words)).toEqual(expected);
  });

  it('follows reason and oil', () => {
    const first = taking('palm', ['palm']);
    expect(asking(first, { reason: 'price' }, oils, words).free_of).toEqual([]);
    const nut = asking(first, { outgoing: [{ oil: 'almond', keep_percent: 0 }], reason: 'allergy' }, oils, words);
    expect(nut.free_of).toEqual(['tree nuts']);
  });

  it('never drops what the maker ticked', () => {
    const first = taking('palm', ['palm']);
    const ticked = asking(first, { free_of: ['palm', 'soy'] }, oils, words);
    expect(asking(ticked, { reason: 'price' }, oils, words).free_of).toEqual(['soy']);
    const cleared = asking(first, { free_of: [] }, oils, words);
    expect(asking(cleared, { others: 'free' }, oils, words).free_of).toEqual([]);
  });

  it('does not forbid what is only cut down', () => {
    const first = taking('palm', ['palm']);
    expect(asking(first, { outgoing: [{ oil: 'palm', keep_percent: 10 }] }, oils, words).free_of).toEqual([]);
  });
});
