import { screen, waitFor, within } from '@testing-library/react';
import { beforeEach, describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { leftUnsaved } from '../sync/unsaved';
import { newBatch, type Batch } from '../testing/kitchen';
import { remember } from '../testing/made';
import { mend, silence } from '../testing/network';
import { address, retype, show } from '../testing/show';
import { BatchDesk } from './BatchDesk';

let batch: Batch;

const desk = () => show(<BatchDesk />, { at: `/batches/${batch.id}`, route: '/batches/:batchId' });
const kept = async () => (await answered(api.GET('/api/batches/{batch_id}', { params: { path: { batch_id: batch.id } } }))).plan;
const field = (path: string) => screen.findByTestId<HTMLInputElement>(path);
const isSaved = () => waitFor(() => expect(screen.getByTestId('save-state').dataset.kind).toBe('saved'), { timeout: 5000 });

describe('a batch on its desk', () => {
  beforeEach(async () => {
    batch = await newBatch();
  });

  it('fills its mould and says how it is cut', async () => {
    await desk();
    expect((await screen.findByTestId('size-words')).textContent).toMatch(/It fills the moulds/);
    expect(await screen.findAllByRole('button', { name: /^\d+ bars of .* cured/ })).not.toHaveLength(0);
  });

  it('follows the headroom, keeps it, and takes it back', async () => {
    const { user } = await desk();
    const before = (await screen.findByText(/oils · .* batter/)).textContent;
    await retype(user, await field('moulds[0].headroom_mm'), '20');
    await waitFor(() => expect(screen.getByText(/oils · .* batter/).textContent).not.toBe(before));
    await isSaved();
    expect((await kept()).moulds[0]?.headroom_mm).toBe(20);
    await user.click(screen.getByRole('button', { name: 'Undo' }));
    expect((await field('moulds[0].headroom_mm')).value).toBe('5');
    await isSaved();
    expect((await kept()).moulds[0]?.headroom_mm).toBe(5);
  });

  it('says at its place what cannot be, keeps it all the same, and prints nothing', async () => {
    const { user } = await desk();
    await screen.findByTestId('size-words');
    await retype(user, await field('moulds[0].headroom_mm'), '-5');
    expect((await screen.findAllByText(/The batter would stand 5\smm above the rim/)).length).toBeGreaterThan(0);
    expect((await field('moulds[0].headroom_mm')).getAttribute('aria-invalid')).toBe('true');
    expect(screen.getByTestId<HTMLButtonElement>('sheet-menu').disabled).toBe(true);
    await isSaved();
    expect((await kept()).moulds[0]?.headroom_mm).toBe(-5);
  });

  it('takes another way to cut with a touch', async () => {
    const { user } = await desk();
    const other = await screen.findAllByRole('button', { name: /^\d+ bars of .* cured/ });
    const bars = Number(/^\d+/.exec(other[0]?.textContent ?? '')?.[0]);
    await user.click(other[0] as HTMLElement);
    await waitFor(() => {
      const shown = screen.getByText('Bars').nextElementSibling?.textContent;
      expect(Number(shown)).toBe(bars);
    });
  });

  it('halves its slices lengthwise', async () => {
    const { user } = await desk();
    await screen.findByTestId('size-words');
    const bars = () => Number(screen.getByText('Bars').nextElementSibling?.textContent);
    const whole = bars();
    await user.click(screen.getByRole('checkbox', { name: /halved lengthwise/ }));
    await waitFor(() => expect(bars()).toBe(2 * whole));
  });

  it('takes its lye from a master and more or less water, and leaves the formula as it is', async () => {
    const { user } = await desk();
    await screen.findByTestId('size-words');
    await user.selectOptions(screen.getByTestId('choice-lye'), 'master');
    await retype(user, await field('choices.lye_concentration_percent'), '38');
    await isSaved();
    expect(await screen.findByText(/NaOH master lye, 50 %/)).toBeTruthy();
    const { choices, formula } = await kept();
    expect([choices.lye, choices.lye_concentration_percent]).toEqual(['master', 38]);
    expect(formula.lye.master_percent ?? null).toBeNull();
    expect(formula.water.value).not.toBe(38);
  });

  it('refuses a scent over its limit in words', async () => {
    const { user } = await desk();
    await screen.findByTestId('size-words');
    await user.type(screen.getByTestId('add-scent'), 'lavender');
    await user.keyboard('{Enter}');
    expect(await screen.findByTestId('scent-lavender')).toBeTruthy();
    await retype(user, await field('scents[0].limit_percent'), '1');
    await retype(user, await field('scents[0].percent_of_oils'), '3');
    expect((await screen.findAllByText(/over its supplier’?'?s limit of 1\s?%/)).length).toBeGreaterThan(0);
  });

  it('splits the batter into portions that always make a whole', async () => {
    const { user } = await desk();
    await user.click(await screen.findByTestId('tab-colour'));
    await user.click(await screen.findByTestId('add-portion'));
    const first = await field('portions[0].share_percent');
    expect(first.value).toBe('50');
    await retype(user, await field('portions[0].share_percent'), '60');
    expect((await screen.findAllByText(/The portions sum to 110 %, 10 over/)).length).toBeGreaterThan(0);
    await retype(user, await field('portions[1].share_percent'), '40');
    await waitFor(() => expect(screen.queryByText(/The portions sum to/)).toBeNull());
  });

  it('says so when the server falls silent, and saves when it is back', async () => {
    const { user } = await desk();
    await screen.findByTestId('size-words');
    silence(1000, 'before', (request) => request.method === 'PUT');
    await retype(user, await field('moulds[0].headroom_mm'), '12');
    await waitFor(() => expect(screen.getByTestId('save-state').dataset.kind).toBe('offline'), { timeout: 5000 });
    mend();
    await waitFor(() => expect(screen.getByTestId('save-state').dataset.kind).toBe('saved'), { timeout: 8000 });
    expect((await kept()).moulds[0]?.headroom_mm).toBe(12);
  });

  it('tells of a save from elsewhere instead of writing over it', async () => {
    const { user } = await desk();
    await screen.findByTestId('size-words');
    const record = await answered(api.GET('/api/batches/{batch_id}', { params: { path: { batch_id: batch.id } } }));
    const body = { revision: record.revision, plan: { ...record.plan, notes: 'From the other room.' } };
    await answered(api.PUT('/api/batches/{batch_id}', { params: { path: { batch_id: batch.id } }, body }));
    await retype(user, await field('moulds[0].headroom_mm'), '9');
    await waitFor(() => expect(screen.getByTestId('save-state').dataset.kind).toBe('conflict'), { timeout: 5000 });
    expect((await kept()).notes).toBe('From the other room.');
    expect((await kept()).moulds[0]?.headroom_mm).toBe(5);
    // There is a replacement, and nothing of either is lost on it.
    await user.click(await screen.findByTestId('keep-mine'));
    await waitFor(() => expect(screen.getByTestId('save-state').dataset.kind).toBe('saved'), { timeout: 5000 });
    expect((await kept()).moulds[0]?.headroom_mm).toBe(9);
  });

  it('keeps one’s own as a batch beside one that was saved elsewhere', async () => {
    const { user } = await desk();
    await screen.findByTestId('size-words');
    const record = await answered(api.GET('/api/batches/{batch_id}', { params: { path: { batch_id: batch.id } } }));
    const body = { revision: record.revision, plan: { ...record.plan, notes: 'From the other room.' } };
    await answered(api.PUT('/api/batches/{batch_id}', { params: { path: { batch_id: batch.id } }, body }));
    await retype(user, await field('moulds[0].headroom_mm'), '9');
    await user.click(await screen.findByTestId('keep-copy'));
    await waitFor(() => expect(address()).not.toContain(batch.id));
    const copyId = address()?.split('/')[2] ?? '';
    remember(`/api/batches/${copyId}`);
    const copy = await answered(api.GET('/api/batches/{batch_id}', { params: { path: { batch_id: copyId } } }));
    expect(copy.plan.moulds[0]?.headroom_mm).toBe(9);
    expect((await kept()).notes).toBe('From the other room.');
    expect(leftUnsaved()).toEqual([]);
  });

  it('loses nothing of what was not saved when the screen is left', async () => {
    const first = await desk();
    await screen.findByTestId('size-words');
    silence(1000, 'before', (request) => request.method === 'PUT');
    await retype(first.user, await field('moulds[0].headroom_mm'), '13');
    await waitFor(() => expect(screen.getByTestId('save-state').dataset.kind).toBe('offline'), { timeout: 5000 });
    first.unmount();
    mend();
    expect((await kept()).moulds[0]?.headroom_mm).toBe(5);
    const { user } = await desk();
    expect((await field('moulds[0].headroom_mm')).value).toBe('13');
    await waitFor(() => expect(screen.getByTestId('save-state').dataset.kind).toBe('saved'), { timeout: 8000 });
    expect((await kept()).moulds[0]?.headroom_mm).toBe(13);
    // Undo has not forgotten what was before.
    await user.click(screen.getByRole('button', { name: 'Undo' }));
    await waitFor(async () => expect((await kept()).moulds[0]?.headroom_mm).toBe(5));
  });

  it('stays as it is once it is begun', async () => {
    await batch.send({ kind: 'started', targets_g: {} });
    const { user } = await desk();
    expect(await screen.findByText('It is begun, so its plan stays as it is.')).toBeTruthy();
    await user.click(screen.getByRole('link', { name: 'Go to make day' }));
    expect(address()).toBe(`/batches/${batch.id}/make`);
  });

  it('is told when there is no such batch', async () => {
    await show(<BatchDesk />, { at: '/batches/nothing', route: '/batches/:batchId' });
    expect(await screen.findByText('This batch cannot be opened')).toBeTruthy();
  });
});

describe('a new mould', () => {
  beforeEach(async () => {
    batch = await newBatch();
  });

  it('is measured, told what it takes, and used', async () => {
    const { user } = await desk();
    await user.click(await screen.findByTestId('add-mould'));
    await user.click(await screen.findByRole('menuitem', { name: /A new mould/ }));
    const dialog = await screen.findByRole('dialog');
    await user.type(within(dialog).getByRole('textbox', { name: 'Name' }), 'Rye tin');
    for (const [name, size] of [['Length', '200'], ['Width', '70'], ['Height', '60']]) {
      await user.type(within(dialog).getByRole('textbox', { name }), size ?? '');
    }
    expect(await within(dialog).findByText(/840\smL/)).toBeTruthy();
    await user.click(within(dialog).getByRole('button', { name: /Keep/ }));
    expect(await screen.findByRole('button', { name: 'Rye tin' })).toBeTruthy();
    await isSaved();
    expect((await kept()).moulds.map((use) => use.mould.name)).toContain('Rye tin');
  });

  it('in centimetres is asked about', async () => {
    const { user } = await desk();
    await user.click(await screen.findByTestId('add-mould'));
    await user.click(await screen.findByRole('menuitem', { name: /A new mould/ }));
    const dialog = await screen.findByRole('dialog');
    await user.type(within(dialog).getByRole('textbox', { name: 'Height' }), '4');
    expect(await within(dialog).findByText(/Is it in centimetres/)).toBeTruthy();
  });
});
