import { describe, expect, it } from 'vitest';

import type { Formula, Purpose, Quality } from '../api/types';
import { targetRangesOf, dropTargetRange, setEdge, toTargetRanges, toTargets } from './targetRanges';

const hardness = { id: 'hardness', name: 'Hardness', axis_minimum: 0, axis_maximum: 90 } as Quality;
const cleansing = { id: 'cleansing', name: 'Cleansing', axis_minimum: 0, axis_maximum: 80 } as Quality;
const purpose = { id: 'face', target_ranges: [{ quality: 'hardness', minimum: 36, maximum: 48 }] } as Purpose;
const formula = { name: 'x', target_ranges: null } as unknown as Formula;

describe('target_ranges', () => {
  it('are those of the purpose until one is changed, and own from then on', () => {
    expect(targetRangesOf(formula, purpose)).toBe(purpose.target_ranges);
    const changed = setEdge(formula, purpose, hardness, 'maximum', 52);
    expect(changed.target_ranges).toEqual([{ quality: 'hardness', minimum: 36, maximum: 52 }]);
    expect(purpose.target_ranges[0]?.maximum).toBe(48);
  });

  it('start from the end of the axis where there was none', () => {
    const changed = setEdge(formula, purpose, cleansing, 'maximum', 15);
    expect(changed.target_ranges).toContainEqual({ quality: 'cleansing', minimum: 0, maximum: 15 });
    expect(changed.target_ranges).toHaveLength(2);
  });

  it('can be dropped one by one', () => {
    expect(dropTargetRange(formula, purpose, 'hardness').target_ranges).toEqual([]);
  });

  it('survive being saved as targets and taken up again', () => {
    const targetRanges = [
      { quality: 'hardness', minimum: 36, maximum: 48 },
      { quality: 'cleansing', minimum: 0, maximum: 12 },
    ];
    const targets = toTargets(targetRanges, [hardness, cleansing]);
    expect(targets[1]).toMatchObject({ minimum: null, maximum: 12 });
    expect(toTargetRanges(targets, [hardness, cleansing])).toEqual(targetRanges);
  });

  it('leave out targets that are on no quality', () => {
    expect(toTargetRanges([{ feature: 'price_per_kg', maximum: 5, required: true, weight: 1 }], [hardness])).toEqual([]);
  });
});
