import { describe, expect, it } from 'vitest';

import type { BatchPlan, Colorant, Mould, MouldUse } from '../api/types';
import { startingFormula } from '../testing/startingFormula';
import { changeMould, paint } from './plan';

const loaf = { id: 'm', name: 'Loaf', shape: { kind: 'loaf', length_mm: 250, width_mm: 80, height_mm: 70 } } as Mould;
const use = { mould: loaf, headroom_mm: 5, cut: null } as MouldUse;

/** A plan without anything in it yet. */
const empty = (): BatchPlan => ({ formula: startingFormula(), formula_id: 'f1', version: 0, size: { by: 'moulds', available_g: {} }, moulds: [], choices: {} as BatchPlan['choices'], scents: [], portions: [], brought: [], notes: '' });

describe('moulds', () => {
  it('are changed one by one', () => {
    const plan = { ...empty(), moulds: [use, use] };
    const changed = changeMould(plan, 1, (use) => ({ ...use, headroom_mm: 12 }));
    expect(changed.moulds.map((use) => use.headroom_mm)).toEqual([5, 12]);
  });
});

describe('portions', () => {
  it('are painted in the hue of their colour', () => {
    const blue = { id: 'mica-blue', kind: 'mica', hue_degrees: 215 } as Colorant;
    const portion = { name: 'a', share_percent: 50, colours: [{ colorant: 'mica-blue', by: 'tsp_per_500_g' as const, value: 1 }] };
    expect(paint(portion, [blue])).toContain('hsl(215');
    expect(paint({ ...portion, colours: [] }, [blue])).toBe('var(--tone-lauric)');
  });
});
