import { screen, waitFor, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { newBatch, ownFormula } from '../testing/kitchen';
import { address, show } from '../testing/show';
import { BatchList } from './BatchList';
import { SheetView } from './SheetView';

const codeOf = async (id: string) =>
  (await answered(api.GET('/api/batches/{batch_id}', { params: { path: { batch_id: id } } }))).code;

describe('the batches', () => {
  it('stand by how far they are, and lead to where they go on', async () => {
    const [planned, making] = [await newBatch(), await newBatch()];
    await making.upTo('melt');
    const { user } = await show(<BatchList />, { at: '/batches', route: '/batches' });
    const beingMade = (await screen.findByRole('heading', { name: 'Being made' })).closest('section') as HTMLElement;
    const row = within(beingMade).getByTestId(`batch-${await codeOf(making.id)}`);
    expect(row.textContent).toContain('at “Melt the hard fats”');
    const waiting = await screen.findByTestId(`batch-${await codeOf(planned.id)}`);
    expect(waiting.textContent).toContain('ready to be made');
    await user.click(within(row).getByRole('link'));
    expect(address()).toBe(`/batches/${making.id}/make`);
  });

  it('say what stands in the way', async () => {
    const open = await newBatch('Hut guest bar', { moulds: [] });
    await show(<BatchList />, { at: '/batches', route: '/batches' });
    const row = await screen.findByTestId(`batch-${await codeOf(open.id)}`);
    expect(row.textContent).not.toContain('ready to be made');
    expect(row.textContent).not.toMatch(/\d g oils/);
  });

  it('are archived and restored', async () => {
    const batch = await newBatch();
    const code = await codeOf(batch.id);
    const { user } = await show(<BatchList />, { at: '/batches', route: '/batches' });
    await user.click(await screen.findByRole('button', { name: `More for batch ${code}` }));
    await user.click(await screen.findByRole('menuitem', { name: 'Archive' }));
    await waitFor(() => expect(screen.queryByTestId(`batch-${code}`)).toBeNull());
    await user.click(await screen.findByRole('button', { name: 'Undo' }));
    expect(await screen.findByTestId(`batch-${code}`)).toBeTruthy();
  });

  it('are planned from a formula, as its last batch was made', async () => {
    const name = 'Bar planned from the list';
    await ownFormula(name);
    const first = await newBatch(name);
    const { user } = await show(<BatchList />, { at: '/batches', route: '/batches' });
    await user.click(await screen.findByTestId('plan-batch'));
    await user.click(await screen.findByRole('option', { name }));
    await waitFor(() => expect(address()).toMatch(/^\/batches\/\w{32}$/));
    const id = address().split('/').at(-1) ?? '';
    expect(id).not.toBe(first.id);
    const { plan } = await answered(api.GET('/api/batches/{batch_id}', { params: { path: { batch_id: id } } }));
    expect(plan.formula.name).toBe(name);
    expect(plan.moulds).toHaveLength(1);
  });

  it('tell weights in the maker’s unit', async () => {
    localStorage.setItem('sapolin.weight-unit', JSON.stringify('oz'));
    const batch = await newBatch();
    await show(<BatchList />, { at: '/batches', route: '/batches' });
    const row = await screen.findByTestId(`batch-${await codeOf(batch.id)}`);
    expect(row.textContent).toMatch(/\d\.\d\d\soz oils/);
  });
});

describe('the sheet on screen', () => {
  it('holds every weight twice and tells temperatures in the maker’s unit', async () => {
    localStorage.setItem('sapolin.temperature-unit', JSON.stringify('°F'));
    const batch = await newBatch();
    await show(<SheetView />, { at: `/batches/${batch.id}/sheet`, route: '/batches/:batchId/sheet' });
    const naoh = (await screen.findByText(/^NaOH/)).closest('tr') as HTMLElement;
    const [, grams, ounces] = within(naoh).getAllByRole('cell').map((cell) => parseFloat(cell.textContent ?? ''));
    expect((grams ?? 0) / 28.349523125).toBeCloseTo(ounces ?? NaN, 1);
    const temperatures = screen.getByText('Temperatures').nextElementSibling?.textContent;
    expect(temperatures).toMatch(/^\d+\sto\s\d+\s°F, 10\s°F apart at most$/);
    expect(screen.getByRole('link', { name: 'Print' }).getAttribute('href')).toContain('temperature=F');
  });

  it('says why there is none yet', async () => {
    const batch = await newBatch('Hut guest bar', { moulds: [] });
    await show(<SheetView />, { at: `/batches/${batch.id}/sheet`, route: '/batches/:batchId/sheet' });
    expect(await screen.findByText('There is no sheet of this batch yet')).toBeTruthy();
  });
});
