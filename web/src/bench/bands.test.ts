import { describe, expect, it } from 'vitest';

import type { Formula, Purpose, Quality } from '../api/types';
import { bandsOf, dropBand, setEdge, toBands, toTargets } from './bands';

const hardness = { id: 'hardness', name: 'Hardness', axis_minimum: 0, axis_maximum: 90 } as Quality;
const cleansing = { id: 'cleansing', name: 'Cleansing', axis_minimum: 0, axis_maximum: 80 } as Quality;
const purpose = { id: 'face', bands: [{ quality: 'hardness', minimum: 36, maximum: 48 }] } as Purpose;
const formula = { name: 'x', bands: null } as unknown as Formula;

describe('bands', () => {
  it('are those of the purpose until one is changed, and own from then on', () => {
    expect(bandsOf(formula, purpose)).toBe(purpose.bands);
    const changed = setEdge(formula, purpose, hardness, 'maximum', 52);
    expect(changed.bands).toEqual([{ quality: 'hardness', minimum: 36, maximum: 52 }]);
    expect(purpose.bands[0]?.maximum).toBe(48);
  });

  it('start from the end of the axis where there was none', () => {
    const changed = setEdge(formula, purpose, cleansing, 'maximum', 15);
    expect(changed.bands).toContainEqual({ quality: 'cleansing', minimum: 0, maximum: 15 });
    expect(changed.bands).toHaveLength(2);
  });

  it('can be dropped one by one', () => {
    expect(dropBand(formula, purpose, 'hardness').bands).toEqual([]);
  });

  it('survive being saved as targets and taken up again', () => {
    const bands = [
      { quality: 'hardness', minimum: 36, maximum: 48 },
      { quality: 'cleansing', minimum: 0, maximum: 12 },
    ];
    const targets = toTargets(bands, [hardness, cleansing]);
    expect(targets[1]).toMatchObject({ minimum: null, maximum: 12 });
    expect(toBands(targets, [hardness, cleansing])).toEqual(bands);
  });

  it('leave out targets that are on no quality', () => {
    expect(toBands([{ feature: 'price_per_kg', maximum: 5, must: true, weight: 1 }], [hardness])).toEqual([]);
  });
});
