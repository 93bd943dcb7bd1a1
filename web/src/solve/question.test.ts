import { describe, expect, it } from 'vitest';

import type { OilSummary, Quality, TargetFeature } from '../api/types';
import { startingFormula } from '../testing/startingFormula';
import { inWords, nextDegree, rowsOf, toQuestion, type Asked } from './question';

const quality = (id: string) => ({ id, name: id, axis_minimum: 0, axis_maximum: 60 }) as Quality;
const QUALITIES = [quality('hardness'), quality('lather'), quality('cleansing')];
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

const row = (feature: string, minimum: number | null, maximum: number | null) => ({ feature, minimum, maximum, required: false, weight: 1 });
const TARGETS = [row('acid:C12:0', 8, 12), row('cleansing', null, 18), row('hardness', 29, 54)];

describe('rowsOf', () => {
  it('has one row a quality, what is not asked for open, and what is no quality last', () => {
    expect(rowsOf(TARGETS, QUALITIES)).toEqual([TARGETS[2], row('lather', null, null), TARGETS[1], TARGETS[0]]);
  });

  it('is all open without targets', () => {
    expect(rowsOf([], QUALITIES).every((one) => one.minimum === null && one.maximum === null)).toBe(true);
  });
});

describe('a question', () => {
  const formula = startingFormula();
  const asked = { targets: rowsOf(TARGETS, QUALITIES), most_oils: 5, free_of: [], limits: [] } as unknown as Asked;

  it('is sent without its open rows, but keeps a row with one edge', () => {
    expect(toQuestion(asked, formula).targets?.map((one) => one.feature)).toEqual(['hardness', 'cleansing', 'acid:C12:0']);
  });

  it('is told with the names of what it aims at and of the oils it limits', () => {
    const features = [...QUALITIES, { id: 'acid:C12:0', name: 'Lauric acid' }] as TargetFeature[];
    const oils = [{ id: 'own-7', name: 'Beach tallow' }] as OilSummary[];
    const told = {
      ...asked,
      targets: [
        { feature: 'hardness', minimum: 30, maximum: null, required: true, weight: 1 },
        { feature: 'acid:C12:0', minimum: 8, maximum: 12, required: false, weight: 1 },
        { feature: 'lather', minimum: null, maximum: null, required: false, weight: 1 },
      ],
      limits: [{ oil: 'own-7', minimum_percent: 20, maximum_percent: 40 }],
      free_of: ['palm' as const],
    };
    expect(inWords(told, features, oils)).toBe(
      'Solved for hardness 30–… (required), lauric acid 8–12; at most 5 oils; without palm; beach tallow 20–40 %.',
    );
  });
});
