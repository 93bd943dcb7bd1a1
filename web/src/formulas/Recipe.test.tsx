import { screen, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import type { Formula, FormulaRecord } from '../api/types';
import { ownFormula } from '../testing/kitchen';
import { show } from '../testing/show';
import { Recipe } from './Recipe';

async function printed(change: (formula: Formula) => Formula) {
  const record = await ownFormula(`On paper ${crypto.randomUUID().slice(0, 6)}`);
  const formula = change(record.formula);
  await answered(
    api.PUT('/api/formulas/{formula_id}', {
      params: { path: { formula_id: record.id } },
      body: { revision: record.revision, formula },
    }),
  );
  const { result } = await answered(api.POST('/api/compute/report', { body: formula }));
  await show(<Recipe />, { at: `/formulas/${record.id}/recipe`, route: '/formulas/:formulaId/recipe' });
  return { record: record as FormulaRecord, weights: result?.weights, sheet: within(await screen.findByTestId('recipe', {}, { timeout: 5000 })) };
}

const weightIn = (row: HTMLElement) => Number((within(row).getAllByRole('cell')[1]?.textContent ?? '').replace(/[^\d.]/g, ''));

describe('a recipe on paper', () => {
  it('tells what is to be weighed, and that lye burns', async () => {
    const { weights, sheet } = await printed((formula) => formula);
    expect(weightIn(sheet.getByRole('row', { name: /^NaOH, caustic/ }))).toBe(weights?.naoh);
    expect(weightIn(sheet.getByRole('row', { name: /^Water/ }))).toBe(weights?.water);
    expect(sheet.getByText('Lye burns.')).toBeTruthy();
    expect(sheet.queryByRole('alert')).toBeNull();
  });

  it('tells master lye as the solution that is weighed, with the water beside it', async () => {
    const { weights, sheet } = await printed((formula) => ({ ...formula, lye: { ...formula.lye, master_percent: 50 } }));
    const row = sheet.getByRole('row', { name: /^NaOH master lye, caustic/ });
    expect(weights?.naoh_solution).toBeGreaterThan(1.9 * (weights?.naoh ?? 0));
    expect(weightIn(row)).toBe(weights?.naoh_solution);
    expect(sheet.queryByRole('row', { name: /^NaOH, caustic/ })).toBeNull();
    expect(weightIn(sheet.getByRole('row', { name: /^Plain water/ }))).toBe(weights?.water);
  });

  it('says first of all what is dangerous', async () => {
    const { sheet } = await printed((formula) => ({ ...formula, purpose: 'lye-heavy-paste', superfat_percent: -2 }));
    expect(sheet.getByRole('alert').textContent).toContain('Danger.');
  });

  it('holds no weight while the lye is open', async () => {
    const { sheet } = await printed((formula) => ({ ...formula, lye: { ...formula.lye, naoh_purity_percent: null } }));
    expect(sheet.getByText(/cannot be made yet/)).toBeTruthy();
    expect(sheet.queryByRole('table')).toBeNull();
  });
});
