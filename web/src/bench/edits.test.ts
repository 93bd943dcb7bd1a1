import { describe, expect, it } from 'vitest';

import type { Formula, OwnMaterial } from '../api/types';
import { startingFormula } from '../testing/startingFormula';
import {
  addOil,
  dropOil,
  enteredSum,
  moveLine,
  removeLine,
  seamNeighbours,
  toggleLocked,
  trade,
  withMaterials,
} from './edits';

const formula = (...shares: (number | null)[]): Formula => ({
  ...startingFormula(),
  name: 'Test bar',
  purpose: 'everyday-body',
  notes: '',
  blend: {
    total_oils_g: 1000,
    lines: shares.map((value, i) => ({ oil: `oil-${i}`, by: 'percent_of_oils' as const, value, locked: false, added: 'start' as const })),
  },
  lye: { naoh_purity_percent: 99 },
  superfat_percent: 5,
  water: { by: 'water_to_lye', value: 2 },
});
const amounts = (of: Formula) => of.blend.lines.map((line) => line.value);

describe('trading across a seam', () => {
  it('moves points from one neighbour to the other', () => {
    expect(amounts(trade(formula(40, 30, 30), 0, 0.5))).toEqual([40.5, 29.5, 30]);
  });
  it('stops at nothing left', () => {
    expect(amounts(trade(formula(40, 3, 57), 0, 10))).toEqual([43, 0, 57]);
    expect(amounts(trade(formula(2, 98), 0, -10))).toEqual([0, 100]);
  });
  it('reaches past held oils and gives up when a side is all held', () => {
    const locked = toggleLocked(formula(40, 30, 30), 1);
    expect(amounts(trade(locked, 0, 1))).toEqual([41, 30, 29]);
    expect(seamNeighbours(toggleLocked(locked, 2).blend.lines, 0)).toBeNull();
  });
  it('leaves no binary dust', () => {
    let bar = formula(33.3, 33.3, 33.4);
    for (let i = 0; i < 30; i += 1) bar = trade(bar, 0, 0.1);
    expect(amounts(bar)).toEqual([36.3, 30.3, 33.4]);
  });
});

describe('lines', () => {
  it('adds an oil with its amount still open', () => {
    expect(amounts(addOil(formula(100), 'castor'))).toEqual([100, null]);
  });
  it('drops an oil in at the cost of the one above, the sum unchanged', () => {
    const dropped = dropOil(formula(60, 40), 'castor', 0);
    expect(dropped.blend.lines.map((line) => line.oil)).toEqual(['oil-0', 'castor', 'oil-1']);
    expect(amounts(dropped)).toEqual([55, 5, 40]);
    expect(enteredSum(dropped.blend)).toBe(100);
  });
  it('takes nothing from a locked oil', () => {
    expect(amounts(dropOil(toggleLocked(formula(60, 40), 0), 'castor', 0))).toEqual([60, null, 40]);
  });
  it('moves and removes', () => {
    expect(amounts(moveLine(formula(1, 2, 3), 0, 2))).toEqual([2, 3, 1]);
    expect(amounts(removeLine(formula(1, 2, 3), 1))).toEqual([1, 3]);
  });
});

describe('own materials', () => {
  const recipe = (id: string, ...components: string[]): OwnMaterial => ({
    id,
    name: id,
    notes: '',
    allergens: '',
    palm_derived: 'no',
    vegan: 'yes',
    content: { kind: 'recipe', filler_percent: 0, components: components.map((oil) => ({ oil, share_percent: 50 })) },
  });
  const inner = recipe('own-inner', 'coconut', 'cocoa');
  const outer = recipe('own-outer', 'own-inner', 'lard');

  it('come along with what they are made of, and leave with it', () => {
    const added = addOil(formula(100), 'own-outer', 5, [inner, outer]);
    expect(added.materials.map(({ id }) => id)).toEqual(['own-inner', 'own-outer']);
    const both = addOil(added, 'own-inner', 5, [inner]);
    expect(removeLine(both, 1).materials.map(({ id }) => id)).toEqual(['own-inner']);
    expect(removeLine(added, 1).materials).toEqual([]);
  });
  it('are replaced, not doubled, when taken from the shelf again', () => {
    const added = addOil(formula(100), 'own-outer', 5, [inner, outer]);
    const renamed = withMaterials(added, [{ ...inner, name: 'new' }]);
    expect(renamed.materials.map(({ name }) => name)).toEqual(['own-outer', 'new']);
  });
});
