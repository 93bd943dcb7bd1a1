import { screen, waitFor, within } from '@testing-library/react';
import { beforeEach, describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import type { FormulaRecord } from '../api/types';
import { ownFormula } from '../testing/kitchen';
import { address, retype, show } from '../testing/show';
import { Solve } from './Solve';

let record: FormulaRecord;
const PATIENT = { timeout: 12_000 };

const solve = () => show(<Solve />, { at: `/formulas/${record.id}/solve`, route: '/formulas/:formulaId/solve' });
const solutions = () => screen.findAllByRole<HTMLInputElement>('radio', {}, PATIENT);
const field = (testId: string) => screen.getByTestId<HTMLInputElement>(testId);
const blends = () => screen.getByTestId('solutions').textContent ?? '';

describe('solving', () => {
  beforeEach(async () => {
    record = await ownFormula('Solve test bar');
  });

  it('offers blends that are proven best and meet every target range', async () => {
    await solve();
    const offered = await solutions();
    expect(offered.length).toBeGreaterThanOrEqual(3);
    await waitFor(() => expect(blends()).toContain('best, proven · everything met'), PATIENT);
    for (const row of ['hardness', 'cleansing']) {
      const [low, high] = ['minimum', 'maximum'].map((edge) => Number(screen.getByTestId<HTMLInputElement>(`${row}-${edge}`).value));
      const reached = Number(screen.getByTestId(`target-${row}`).textContent?.match(/(\d+\.\d)\s*$/)?.[1]);
      expect(reached).toBeGreaterThanOrEqual((low ?? 0) - 0.05);
      expect(reached).toBeLessThanOrEqual((high ?? 0) + 0.05);
    }
  }, 20_000);

  it('leaves out what is forbidden', async () => {
    const { user } = await solve();
    await solutions();
    await user.click(screen.getByRole('button', { name: 'no palm' }));
    await user.click(screen.getByRole('button', { name: 'no coconut' }));
    await waitFor(() => {
      expect(blends()).not.toMatch(/palm|coconut/i);
      expect(blends()).toMatch(/best, proven/);
    }, PATIENT);
  }, 30_000);

  it('names what cannot hold together, and how much it would have to give', async () => {
    const { user } = await solve();
    await solutions();
    await retype(user, field('hardness-minimum'), '56');
    await retype(user, field('hardness-maximum'), '62');
    for (const feature of ['hardness', 'conditioning']) {
      for (let i = 0; i < 4 && screen.getByTestId(`degree-${feature}`).textContent !== 'required'; i++) {
        await user.click(screen.getByTestId(`degree-${feature}`));
      }
    }
    const conflict = await screen.findByTestId('conflict', {}, PATIENT);
    expect(conflict.textContent).toMatch(/hardness/i);
    expect(conflict.textContent).toMatch(/would have to give/i);
    expect(conflict.textContent).toMatch(/\d/);
  }, 40_000);

  it('says in words that a target range is upside down, and keeps what was typed', async () => {
    const { user } = await solve();
    await solutions();
    await retype(user, field('hardness-minimum'), '60');
    const alert = await screen.findByRole('alert', {}, PATIENT);
    expect(alert.textContent).toMatch(/hardness/i);
    expect(screen.getByTestId<HTMLInputElement>('hardness-minimum').value).toMatch(/^60/);
  }, 30_000);

  it('takes a blend to the bench with the question it answered', async () => {
    const { user } = await solve();
    await solutions();
    await waitFor(() => expect(screen.getByTestId<HTMLButtonElement>('keep-solution').disabled).toBe(false), PATIENT);
    await user.click(screen.getByTestId('keep-solution'));
    await waitFor(() => expect(address()).toBe(`/formulas/${record.id}`), PATIENT);
    const [version] = await answered(
      api.GET('/api/formulas/{formula_id}/versions', { params: { path: { formula_id: record.id } } }),
    );
    expect(version?.note).toMatch(/hardness/i);
    expect(version?.formula.blend.lines.length).toBeLessThanOrEqual(5);
  }, 40_000);

  it('learns its targets from a formula that is liked', async () => {
    const { user } = await solve();
    await solutions();
    const before = screen.getByTestId<HTMLInputElement>('hardness-minimum').value;
    await user.click(screen.getByTestId('like-this'));
    await waitFor(() => expect(screen.getByTestId<HTMLInputElement>('hardness-minimum').value).not.toBe(before));
    const [low, high] = ['minimum', 'maximum'].map((edge) => Number(screen.getByTestId<HTMLInputElement>(`hardness-${edge}`).value));
    // The bar itself has 43.1.
    expect(low).toBeLessThan(43.2);
    expect(high).toBeGreaterThan(43);
  }, 30_000);

  it('keeps targets by name, and brings them back', async () => {
    const { user } = await solve();
    await solutions();
    await retype(user, field('cleansing-maximum'), '15');
    await user.click(screen.getByTestId('save-targets'));
    const dialog = await screen.findByRole('dialog');
    await user.type(within(dialog).getByTestId('target-set-name'), 'Mild for the guides');
    await user.click(within(dialog).getByTestId('save-target-set'));
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
    await retype(user, field('cleansing-maximum'), '19');
    await user.click(screen.getByTestId('solve-purpose'));
    await user.click(await screen.findByRole('menuitem', { name: 'Mild for the guides' }));
    expect(Number(screen.getByTestId<HTMLInputElement>('cleansing-maximum').value)).toBe(15);
  }, 30_000);
});
