import { describe, expect, it } from 'vitest';

import type { BatchPlan, Colorant, Mould } from '../api/types';
import { startingFormula } from '../testing/startingFormula';
import { addPortion, changeMould, colourToldBy, dropPortion, paint, usedMould } from './plan';

const total = (plan: BatchPlan) => plan.portions.reduce((sum, portion) => sum + (portion.share_percent ?? 0), 0);
const loaf = { id: 'm', name: 'Loaf', shape: { kind: 'loaf', length_mm: 250, width_mm: 80, height_mm: 70 } } as Mould;

/** A plan without anything in it yet. */
const empty = (): BatchPlan => ({ formula: startingFormula(), formula_id: 'f1', version: 0, size: { by: 'moulds', available_g: {} }, moulds: [], choices: {} as BatchPlan['choices'], scents: [], portions: [], notes: '' });

describe('moulds', () => {
  it('come with a way to cut them, where they are cut', () => {
    expect(usedMould(loaf).cut?.bar_mm).toBe(25);
    expect(usedMould({ ...loaf, shape: { kind: 'cavities', count: 6, cavity_ml: 90 } }).cut).toBeNull();
    expect(usedMould({ ...loaf, shape: { kind: 'slab', length_mm: 300, width_mm: 200, height_mm: 40 } }).cut?.bar_width_mm).toBe(55);
  });

  it('are changed one by one', () => {
    const plan = { ...empty(), moulds: [usedMould(loaf), usedMould(loaf)] };
    const changed = changeMould(plan, 1, (use) => ({ ...use, headroom_mm: 12 }));
    expect(changed.moulds.map((use) => use.headroom_mm)).toEqual([5, 12]);
  });
});

describe('portions', () => {
  it('always sum to 100 when added and dropped', () => {
    let plan = empty();
    for (let i = 0; i < 6; i++) {
      plan = addPortion(plan);
      expect(total(plan)).toBeCloseTo(100, 6);
    }
    while (plan.portions.length > 1) {
      plan = dropPortion(plan, 0);
      expect(total(plan)).toBeCloseTo(100, 6);
    }
    expect(plan.portions[0]?.share_percent).toBe(100);
  });

  it('start as two, since one alone is no portion', () => {
    expect(addPortion(empty()).portions.map((portion) => portion.share_percent)).toEqual([50, 50]);
  });

  it('are painted in the hue of their colour', () => {
    const blue = { id: 'mica-blue', kind: 'mica', hue_degrees: 215 } as Colorant;
    const portion = { name: 'a', share_percent: 50, colours: [{ colorant: 'mica-blue', by: 'tsp_per_500_g' as const, value: 1 }] };
    expect(paint(portion, [blue])).toContain('hsl(215');
    expect(paint({ ...portion, colours: [] }, [blue])).toBe('var(--tone-lauric)');
  });
});

describe('the rate of a colour', () => {
  const mica = { id: 'mica-blue', g_per_tsp: 2.5 } as Colorant;
  const line = (by: 'tsp_per_500_g' | 'percent_of_oils', value: number | null) => ({ colorant: mica.id, by, value, disperse_in: null });

  it('stays the same amount when it is told another way', () => {
    // 2.5 g in 500 g is half a percent.
    expect(colourToldBy(line('tsp_per_500_g', 1), 'percent_of_oils', mica)).toEqual({ by: 'percent_of_oils', value: 0.5 });
    expect(colourToldBy(line('percent_of_oils', 0.5), 'tsp_per_500_g', mica)).toEqual({ by: 'tsp_per_500_g', value: 1 });
  });

  it('is left alone where there is nothing to tell anew', () => {
    expect(colourToldBy(line('tsp_per_500_g', null), 'percent_of_oils', mica)).toEqual({ by: 'percent_of_oils' });
    expect(colourToldBy(line('tsp_per_500_g', 3), 'tsp_per_500_g', mica)).toEqual({ by: 'tsp_per_500_g' });
    expect(colourToldBy(line('tsp_per_500_g', 3), 'percent_of_oils', undefined)).toEqual({ by: 'percent_of_oils' });
  });
});
