import { screen, waitFor, within } from '@testing-library/react';
import { beforeEach, describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { newBatch, type Batch } from '../testing/kitchen';
import { retype, show } from '../testing/show';
import { BatchDesk } from './BatchDesk';

let batch: Batch;

const PATIENT = { timeout: 5000 };
const words = () => screen.getByTestId('size-words').textContent ?? '';
const field = (path: string) => screen.findByTestId<HTMLInputElement>(path);
const kept = async () => {
  await waitFor(() => expect(screen.getByTestId('save-state').dataset.kind).toBe('saved'), PATIENT);
  return (await answered(api.GET('/api/batches/{batch_id}', { params: { path: { batch_id: batch.id } } }))).plan;
};

async function desk() {
  const drawn = await show(<BatchDesk />, { at: `/batches/${batch.id}`, route: '/batches/:batchId' });
  await screen.findByTestId('size-words');
  return drawn;
}

beforeEach(async () => {
  batch = await newBatch();
});

describe('size', () => {
  it('by a weight of oils says what is over or short of the mould', async () => {
    const { user } = await desk();
    await user.selectOptions(screen.getByTestId('size-by'), 'oils_g');
    await retype(user, await field('size.value'), '3 kg');
    await waitFor(() => expect(words()).toMatch(/over/), PATIENT);
    await retype(user, await field('size.value'), '300');
    await waitFor(() => expect(words()).toMatch(/short|room|more/), PATIENT);
    expect((await kept()).size).toMatchObject({ by: 'oils_g', value: 300 });
  });

  it('by a number of bars of a cured weight', async () => {
    const { user } = await desk();
    await user.selectOptions(screen.getByTestId('size-by'), 'bars');
    await retype(user, await field('size.value'), '6');
    await retype(user, await field('size.cured_bar_g'), '100');
    const plan = await kept();
    expect(plan.size).toMatchObject({ by: 'bars', value: 6, cured_bar_g: 100 });
    const { planned } = (await batch.run()).prepared;
    // Bars lose water while they cure, so more than 600 g is poured.
    expect(planned.size.batter_g).toBeGreaterThan(600);
    expect(planned.size.batter_g).toBeLessThan(780);
  });

  it('by what is left of an oil, and names the one that limits', async () => {
    const { user } = await desk();
    await user.selectOptions(screen.getByTestId('size-by'), 'limiting');
    await retype(user, await field('size.available_g.shea'), '20');
    await retype(user, await field('size.available_g.coconut'), '900');
    await waitFor(() => expect(words()).toMatch(/Shea butter is what limits it/), PATIENT);
    await kept();
    // Shea is 5 % of this bar.
    expect((await batch.run()).prepared.planned.size.oils_g).toBeCloseTo(400, 0);
  });

  it('nothing entered yet is asked for at its place, not guessed', async () => {
    const { user } = await desk();
    await user.selectOptions(screen.getByTestId('size-by'), 'oils_g');
    await user.clear(await field('size.value'));
    await waitFor(() => expect(screen.getAllByText(/not entered yet/).length).toBeGreaterThan(0), PATIENT);
    expect((await kept()).size.value).toBeNull();
  });
});

describe('moulds', () => {
  it('are added and left out, and the batch follows', async () => {
    const { user } = await desk();
    const oils = async () => {
      await kept();
      return (await batch.run()).prepared.planned.size.oils_g;
    };
    const one = await oils();
    await user.click(screen.getByTestId('add-mould'));
    await user.click(await screen.findByRole('menuitem', { name: /Six domes/ }));
    expect(await screen.findByTestId('mould-1')).toBeTruthy();
    expect(await oils()).toBeGreaterThan(one);
    await user.click(within(screen.getByTestId('mould-1')).getByRole('button', { name: 'Leave out Six domes' }));
    await waitFor(() => expect(screen.queryByTestId('mould-1')).toBeNull());
    expect(await oils()).toBeCloseTo(one, 1);
  });

  it('with walls can be cut, trays of cavities cannot', async () => {
    const { user } = await desk();
    await user.click(screen.getByTestId('add-mould'));
    await user.click(await screen.findByRole('menuitem', { name: /Shell tray/ }));
    await screen.findByTestId('mould-1');
    expect(screen.queryByTestId('moulds[1].cut.bar_mm')).toBeNull();
    await user.click(screen.getByTestId('add-mould'));
    await user.click(await screen.findByRole('menuitem', { name: /Hut slab/ }));
    expect(await field('moulds[2].cut.bar_width_mm')).toBeTruthy();
  });

  it('of another kind keep the measures both have, and ask for the others', async () => {
    const { user } = await desk();
    await user.click(screen.getByTestId('add-mould'));
    await user.click(await screen.findByRole('menuitem', { name: /new mould/ }));
    await user.type(await screen.findByTestId('mould-name'), 'Pipe');
    await retype(user, screen.getByTestId('mould-length_mm'), '250');
    const value = (name: string) => screen.getByTestId<HTMLInputElement>(name).value;
    await user.selectOptions(screen.getByTestId('mould-kind'), 'cylinder');
    expect([value('mould-length_mm'), value('mould-diameter_mm')]).toEqual(['250', '']);
    await user.selectOptions(screen.getByTestId('mould-kind'), 'half_spheres');
    expect([value('mould-count'), value('mould-diameter_mm')]).toEqual(['6', '']);
    expect(screen.getByTestId<HTMLButtonElement>('keep-mould').disabled).toBe(true);
    await retype(user, screen.getByTestId('mould-diameter_mm'), '60');
    // Six half spheres of π/12 · 6³ cm³ each.
    expect(await screen.findByText(/It takes 339 mL/, undefined, PATIENT)).toBeTruthy();
  });

  it('headroom above the rim is refused where it was typed', async () => {
    const { user } = await desk();
    await retype(user, await field('moulds[0].headroom_mm'), '300');
    await waitFor(() => expect(screen.getAllByText(/[Hh]eadroom/).length).toBeGreaterThan(1), PATIENT);
    expect((await field('moulds[0].headroom_mm')).value).toBe('300');
    expect((await kept()).moulds[0]?.headroom_mm).toBe(300);
  });
});

describe('colours', () => {
  async function blue() {
    const drawn = await desk();
    await drawn.user.click(await screen.findByTestId('tab-colour'));
    await drawn.user.click(await screen.findByTestId('add-portion'));
    await drawn.user.type(await screen.findByTestId('add-colour-1'), 'ultramarine blue');
    await drawn.user.keyboard('{Enter}');
    const portion = within(await screen.findByTestId('portion-1'));
    await portion.findByText('Ultramarine blue');
    return { ...drawn, portion };
  }
  const grams = async () => {
    await kept();
    return (await batch.run()).prepared.planned.portions[1]?.colours[0]?.weight_g ?? NaN;
  };

  it('weigh the same whether given in spoons or in percent', async () => {
    const { user, portion } = await blue();
    const spoons = await grams();
    await user.selectOptions(portion.getByRole('combobox', { name: 'Given in' }), 'percent_of_oils');
    await waitFor(() => expect(portion.getByRole<HTMLSelectElement>('combobox', { name: 'Given in' }).value).toBe('percent_of_oils'));
    expect(await grams()).toBeCloseTo(spoons, 2);
    expect((await kept()).portions[1]?.colours[0]?.by).toBe('percent_of_oils');
  });

  it('ten times the usual rate is asked about', async () => {
    const { user } = await blue();
    await retype(user, await field('portions[1].colours[0].value'), '20');
    await waitFor(() => expect(screen.getAllByText(/Usual is/).length).toBeGreaterThan(0), PATIENT);
  });

  it('are left out again, and a portion with them', async () => {
    const { user, portion } = await blue();
    await user.click(portion.getByRole('button', { name: 'Leave out Ultramarine blue' }));
    expect(portion.queryByText('Ultramarine blue')).toBeNull();
    await user.click(portion.getByRole('button', { name: /^Leave out / }));
    await waitFor(() => expect(screen.queryByTestId('portion-1')).toBeNull());
    expect((await kept()).portions.map((one) => one.share_percent)).toEqual([100]);
  });

  it('portions have names of their own, which are one step of undo', async () => {
    const { user, portion } = await blue();
    await retype(user, portion.getByRole('textbox', { name: 'Name of portion 2' }), 'deep blue');
    await user.tab();
    expect((await kept()).portions[1]?.name).toBe('deep blue');
  });
});

describe('scent and notes', () => {
  it('a scent is weighed, told about, and left out', async () => {
    const { user } = await desk();
    expect(screen.getByText(/Unscented/)).toBeTruthy();
    await user.type(screen.getByTestId('add-scent'), 'lavender');
    await user.keyboard('{Enter}');
    const entry = within(await screen.findByTestId('scent-lavender'));
    expect(await entry.findByText(/\d g$/, {}, PATIENT)).toBeTruthy();
    expect(entry.getByText(/Usual .* to .* %/)).toBeTruthy();
    await user.click(entry.getByRole('button', { name: /^Leave out/ }));
    expect((await kept()).scents).toEqual([]);
  });

  it('notes stay with the batch', async () => {
    const { user } = await desk();
    await user.click(screen.getByTestId('tab-notes'));
    await user.type(screen.getByRole('textbox', { name: 'Notes for this batch' }), 'For the hut.');
    expect((await kept()).notes).toBe('For the hut.');
    expect(screen.getByTestId('tab-notes').textContent).toBe('Notes •');
  });
});

describe('what makers bring along', () => {
  it('drops of a recipe become a weight, with what is to be said of drops', async () => {
    const { user } = await desk();
    await user.type(screen.getByTestId('add-scent'), 'lavender');
    await user.keyboard('{Enter}');
    await user.type(await screen.findByTestId('drops-lavender'), '40');
    await waitFor(() => {
      expect(screen.getByTestId('drops-caution').textContent).toMatch(/40 drops weigh about 1\.2.g.*drops differ/);
      expect(screen.getByTestId<HTMLButtonElement>('use-drops').disabled).toBe(false);
    }, PATIENT);
    await user.click(screen.getByTestId('use-drops'));
    const percent = (await kept()).scents[0]?.percent_of_oils ?? 0;
    expect(percent).toBeGreaterThan(0.05);
    expect(percent).toBeLessThan(1);
  });

  it('what the customer brings is looked at on make day', async () => {
    const { user } = await desk();
    const list = screen.getByTestId('brought');
    await user.click(within(list).getAllByRole('checkbox', { hidden: true })[0] as HTMLElement);
    expect((await kept()).brought).toHaveLength(1);
    expect((await batch.run()).prepared.steps.map((step) => step.id)).toContain('brought');
  });
});
