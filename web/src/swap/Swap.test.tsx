import { screen, waitFor, within } from '@testing-library/react';
import { beforeEach, describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import type { FormulaRecord } from '../api/types';
import { ownFormula } from '../testing/kitchen';
import { address, show } from '../testing/show';
import { Swap } from './Swap';

let record: FormulaRecord;

const swap = (query = '?out=palm') =>
  show(<Swap />, { at: `/formulas/${record.id}/swap${query}`, route: '/formulas/:formulaId/swap' });
const candidates = () => screen.findAllByRole<HTMLInputElement>('radio', {}, { timeout: 5000 });
const words = () => (screen.getByTestId('swap-words').textContent ?? '').replaceAll('\u00a0', ' ');
const formula = async (id: string) =>
  answered(api.GET('/api/formulas/{formula_id}', { params: { path: { formula_id: id } } }));

async function tick(user: Awaited<ReturnType<typeof swap>>['user'], chip: string, ...names: string[]) {
  await user.click(screen.getByTestId(chip));
  for (const name of names) await user.click(await screen.findByRole('menuitemcheckbox', { name }));
  await user.keyboard('{Escape}');
}

describe('swapping an oil', () => {
  beforeEach(async () => {
    record = await ownFormula('Swap test bar');
  });

  it('tells what the oil was doing, and ranks replacements', async () => {
    await swap();
    const ranked = await candidates();
    expect(ranked.length).toBeGreaterThanOrEqual(3);
    expect(ranked[0]?.checked).toBe(true);
    expect(words()).toMatch(/^Palm gave 15 of 43 points of hardness/);
    // Ranked by how near they come; within three percent the more usual oils go first.
    const matches = [...screen.getByTestId('candidates').querySelectorAll('b')].map((bold) => parseInt(bold.textContent ?? '', 10));
    expect(matches.length).toBe(ranked.length);
    matches.slice(1).forEach((match, i) => expect(match).toBeLessThanOrEqual((matches[i] ?? 0) + 3));
    expect(screen.getByTestId('why-first').textContent).toMatch(/^First because/);
  });

  it('brings nothing that is forbidden', async () => {
    const { user } = await swap();
    await candidates();
    expect(screen.getByTestId('swap-without').textContent).toContain('palm');
    await tick(user, 'swap-without', 'animal', 'tree nuts');
    await waitFor(() => expect(screen.getByTestId('candidates').textContent).not.toMatch(/tallow|lard|palm stearin/i));
    expect((await candidates()).length).toBeGreaterThan(0);
  });

  it('keeps the chosen one as a version that says why, with the lye calculated anew', async () => {
    const { user } = await swap();
    const ranked = await candidates();
    await user.click(ranked[1] as HTMLElement);
    await user.click(screen.getByTestId('keep-swap'));
    await waitFor(() => expect(address()).toBe(`/formulas/${record.id}`), { timeout: 5000 });
    const [version] = await answered(
      api.GET('/api/formulas/{formula_id}/versions', { params: { path: { formula_id: record.id } } }),
    );
    expect(version?.note).toMatch(/palm out \(on principle\)/);
    const now = await formula(record.id);
    expect(now.formula.blend.lines.map((line) => line.oil)).not.toContain('palm');
    const sum = now.formula.blend.lines.reduce((total, line) => total + (line.value ?? 0), 0);
    expect(sum).toBeCloseTo(100, 6);
  });

  it('changes nothing until it is kept', async () => {
    const { user } = await swap();
    await user.click((await candidates())[1] as HTMLElement);
    expect((await formula(record.id)).revision).toBe(record.revision);
  });

  it('shows, from the maker’s own blend, why equal lye need misleads', async () => {
    const { user } = await swap();
    await candidates();
    await user.click(screen.getByRole('button', { name: /misleads|By equal lye/i }));
    const table = within(await screen.findByTestId('equal-sap')).getByRole('table');
    expect(within(table).getAllByRole('row').length).toBeGreaterThan(5);
    expect(within(table).getAllByRole('columnheader').map((head) => head.textContent)).toEqual(['points', 'before', 'equal lye', 'best']);
  });

  it('lets a lever be pulled and let go', async () => {
    const { user } = await swap();
    await candidates();
    const lye = () => screen.getByTestId('changed-naoh_g').textContent;
    const before = lye();
    const lever = await screen.findByTestId('lever-superfat');
    await user.click(lever);
    await waitFor(() => expect(lye()).not.toBe(before));
    await user.click(screen.getByRole('button', { name: 'Undo all levers' }));
    await waitFor(() => expect(lye()).toBe(before));
  });

  it('cuts down instead of taking out', async () => {
    const { user } = await swap();
    await candidates();
    const keep = screen.getByTestId<HTMLInputElement>('keep-palm');
    await user.clear(keep);
    await user.type(keep, '12');
    await user.tab();
    await waitFor(() => expect(words()).toMatch(/^The 18 % of palm that goes gave 9 of 43 points of hardness/), { timeout: 5000 });
    // Nobody can make up for more than went.
    for (const [, made, went] of words().matchAll(/(\d+\.\d) of the (\d+\.\d) points of palmitic/g)) {
      expect(Number(made)).toBeLessThanOrEqual(Number(went));
      expect(Number(went)).toBeLessThan(9);
    }
  });

  it('always has an oil to take out', async () => {
    const { user } = await swap();
    await candidates();
    await tick(user, 'swap-out', 'Palm 30.0 %');
    expect(screen.getByTestId('swap-out').textContent).toContain('Palm');
  });

  it('says so when all of an oil is to be kept', async () => {
    const { user } = await swap();
    await candidates();
    const keep = screen.getByTestId<HTMLInputElement>('keep-palm');
    await user.clear(keep);
    await user.type(keep, '30');
    expect((await screen.findByRole('alert')).textContent).toMatch(/palm/i);
    expect(screen.getByTestId<HTMLButtonElement>('keep-swap').disabled).toBe(true);
  });

  it('makes a test formula of 500 g', async () => {
    const { user } = await swap();
    await candidates();
    await user.click(screen.getByTestId('test-batch'));
    await waitFor(() => expect(address()).not.toContain(record.id), { timeout: 5000 });
    const made = await formula(address().split('/').at(-1) ?? '');
    expect(made.formula.blend).toMatchObject({ total_oils_g: 500 });
  });
});

describe('a formula without oils', () => {
  it('has nothing to swap, and says where to go', async () => {
    const { formula: like } = await ownFormula('Empty to be');
    record = await answered(api.POST('/api/formulas', { body: { ...like, name: 'Empty', blend: { total_oils_g: 500, lines: [] } } }));
    await swap('');
    expect(await screen.findByText('There is nothing to swap yet')).toBeTruthy();
  });
});
