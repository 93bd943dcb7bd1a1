import { describe, expect, it } from 'vitest';

import type { OilSummary, Purpose, Quality, TargetFeature } from '../api/types';
import { startingFormula } from '../testing/startingFormula';
import { firstQuestion, inWords, nextDegree, targetsFor, toQuestion } from './question';

const quality = (id: string) => ({ id, name: id, axis_minimum: 0, axis_maximum: 60 }) as Quality;
const QUALITIES = [quality('hardness'), quality('lather'), quality('cleansing')];
const PURPOSE = {
  id: 'body',
  target_ranges: [
    { quality: 'hardness', minimum: 29, maximum: 54 },
    { quality: 'cleansing', minimum: 0, maximum: 18 },
  ],
} as Purpose;

describe('nextDegree', () => {
  it('goes from preferred by weight to required and around', () => {
    const seen = [];
    let degree = { required: false, weight: 1 };
    for (let i = 0; i < 5; i++) {
      seen.push(degree.required ? 'required' : degree.weight);
      degree = nextDegree({ feature: 'hardness', ...degree });
    }
    expect(seen).toEqual([1, 2, 4, 'required', 1]);
  });
});

describe('targetsFor', () => {
  it('takes the target ranges of the purpose and leaves the other qualities open', () => {
    const [hardness, lather] = targetsFor(PURPOSE.target_ranges, QUALITIES);
    expect(hardness).toMatchObject({ feature: 'hardness', minimum: 29, maximum: 54 });
    expect(lather).toMatchObject({ feature: 'lather', minimum: null, maximum: null });
  });

  it('asks for no lower edge where the target range starts at the end of the scale', () => {
    expect(targetsFor(PURPOSE.target_ranges, QUALITIES)[2]).toMatchObject({ minimum: null, maximum: 18 });
  });

  it('is all open without a purpose', () => {
    expect(targetsFor([], QUALITIES).every((row) => row.minimum === null && row.maximum === null)).toBe(true);
  });
});

describe('a question', () => {
  const formula = startingFormula();

  it('keeps near an existing blend, and has no preference without one', () => {
    const lines = [{ oil: 'olive-refined', by: 'percent_of_oils' as const, value: 100, locked: false, added: 'start' as const }];
    const begun = { ...formula, blend: { total_oils_g: 1000, lines } };
    const empty = { ...begun, blend: { ...begun.blend, lines: [] } };
    expect(firstQuestion(begun, PURPOSE, QUALITIES).prefer).toBe('closer');
    expect(firstQuestion(empty, PURPOSE, QUALITIES).prefer).toBe('none');
  });

  it('is sent without its open rows, but keeps a row with one edge', () => {
    const sent = toQuestion(firstQuestion(formula, PURPOSE, QUALITIES), formula);
    expect(sent.targets?.map((row) => row.feature)).toEqual(['hardness', 'cleansing']);
  });

  it('is told with the names of what it aims at and of the oils it limits', () => {
    const features = [...QUALITIES, { id: 'acid:C12:0', name: 'Lauric acid' }] as TargetFeature[];
    const oils = [{ id: 'own-7', name: 'Beach tallow' }] as OilSummary[];
    const asked = {
      ...firstQuestion(formula, PURPOSE, QUALITIES),
      targets: [
        { feature: 'hardness', minimum: 30, maximum: null, required: true, weight: 1 },
        { feature: 'acid:C12:0', minimum: 8, maximum: 12, required: false, weight: 1 },
        { feature: 'lather', minimum: null, maximum: null, required: false, weight: 1 },
      ],
      limits: [{ oil: 'own-7', minimum_percent: 20, maximum_percent: 40 }],
      free_of: ['palm' as const],
    };
    expect(inWords(asked, features, oils)).toBe(
      'Solved for hardness 30–… (required), lauric acid 8–12; at most 5 oils; without palm; beach tallow 20–40 %.',
    );
  });
});
