import { screen, waitFor, within } from '@testing-library/react';
import { beforeEach, describe, expect, it } from 'vitest';

import type { FormulaRecord } from '../../api/types';
import { field, isFresh, isSaved, keptOf, numberIn, openBench } from '../../testing/bench';
import { ownFormula } from '../../testing/kitchen';
import { retype } from '../../testing/show';

let record: FormulaRecord;

/** The bench with one page of the composition open. */
async function composition(tab: string) {
  const drawn = await openBench(record);
  await drawn.user.click(screen.getByTestId(`tab-${tab}`));
  return drawn;
}

const kept = async () => {
  await isSaved();
  return keptOf(record);
};
const lye = () => numberIn(screen.getByTestId('lye-to-weigh'));
const choose = (label: string) => screen.getByRole<HTMLSelectElement>('combobox', { name: label });

beforeEach(async () => {
  record = await ownFormula(`Mix ${crypto.randomUUID().slice(0, 6)}`);
});

describe('additives', () => {
  it('say what they are for while there are none', async () => {
    await composition('additives');
    expect(screen.getByText(/Acids and baking soda consume lye/)).toBeTruthy();
  });

  it('an acid brings its lye with it, or the superfat rises by what it consumes', async () => {
    const { user } = await composition('additives');
    const before = lye();
    await user.type(screen.getByTestId('add-additive'), 'citric');
    await user.keyboard('{Enter}');
    const entry = await screen.findByTestId('additive-citric-acid');
    await retype(user, within(entry).getByRole('textbox'), '1');
    await isFresh();
    // 10 g of citric acid for each kilogram of oils takes 0.624 g of NaOH a gram, of 99 %.
    const oils = 1000;
    await waitFor(() => expect(within(entry).getByText(/Add the lye back: \d/)).toBeTruthy());
    const more = lye() - before;
    expect(more / oils).toBeCloseTo((0.01 * 0.6246) / 0.99, 3);
    await user.click(within(entry).getByRole('checkbox'));
    await waitFor(() => expect(within(entry).getByText(/now the superfat rises \d/)).toBeTruthy());
    expect(lye()).toBeCloseTo(before, 0);
    expect((await kept()).additives[0]).toMatchObject({ additive: 'citric-acid', value: 1, compensated: false });
  });

  it('the same amount is told in percent, in spoons or by weight', async () => {
    const { user } = await composition('additives');
    await user.type(screen.getByTestId('add-additive'), 'sugar');
    await user.keyboard('{Enter}');
    const entry = await screen.findByTestId('additive-sugar');
    await retype(user, within(entry).getByRole('textbox'), '2');
    await isFresh();
    const give = async (basis: string, named: RegExp) => {
      await user.click(within(entry).getByRole('button', { name: /^Sugar/ }));
      await user.click(await screen.findByRole('menuitem', { name: basis }));
      await within(entry).findByRole('textbox', { name: named });
      await isFresh();
    };
    await give('its weight', /weight in/);
    const grams = within(entry).getByRole<HTMLInputElement>('textbox');
    expect(Number(grams.value)).toBeCloseTo(0.02 * 1000, 1);
    await give('level teaspoons for 500 g of oils', /teaspoons/);
    await give('percent of the oils', /percent/);
    await waitFor(() => expect(Number(within(entry).getByRole<HTMLInputElement>('textbox').value)).toBeCloseTo(2, 1));
    expect((await kept()).additives[0]?.value).toBeCloseTo(2, 3);
  });

  it('are typed with their amount in one go', async () => {
    const { user } = await composition('additives');
    await user.type(screen.getByTestId('add-additive'), 'sugar 2{Enter}');
    await user.type(screen.getByTestId('add-additive'), 'kaolin 15 g{Enter}');
    expect((await kept()).additives.slice(-2).map(({ by, value }) => [by, value])).toEqual([
      ['percent_of_oils', 2],
      ['weight_g', 15],
    ]);
  });

  it('are taken out, and restored by undo', async () => {
    const { user } = await composition('additives');
    await user.type(screen.getByTestId('add-additive'), 'kaolin');
    await user.keyboard('{Enter}');
    await user.click(await screen.findByRole('button', { name: /^Take out Kaolin/ }));
    expect(screen.queryByTestId('additive-kaolin')).toBeNull();
    await user.keyboard('{Control>}z{/Control}');
    expect(screen.getByTestId('additive-kaolin')).toBeTruthy();
  });
});

describe('liquids', () => {
  const milk = async () => {
    const drawn = await composition('liquids');
    await drawn.user.type(screen.getByTestId('add-liquid'), 'goat milk');
    await drawn.user.keyboard('{Enter}');
    const entry = await screen.findByTestId('liquid-goat-milk');
    return { ...drawn, entry };
  };

  it('wait for an amount before any lye is shown', async () => {
    await milk();
    await waitFor(() => expect(screen.getByTestId('formula-state').dataset.freshness).toBe('stopped'), { timeout: 5000 });
    expect(screen.getAllByText(/not entered yet/).length).toBeGreaterThan(0);
  });

  it('tell what they bring, and take the place of water', async () => {
    const { user, entry } = await milk();
    await retype(user, within(entry).getByRole('textbox'), '50');
    await isFresh();
    expect(await within(entry).findByText(/Brings \d+.* water, .* fat,.* sugar, .* protein/)).toBeTruthy();
    expect((await kept()).liquids[0]).toMatchObject({ use: 'dissolves_lye', by: 'percent_of_water', value: 50 });
  });

  it('keep the same amount when it is told another way', async () => {
    const { user, entry } = await milk();
    await retype(user, within(entry).getByRole('textbox'), '50');
    await isFresh();
    await user.selectOptions(within(entry).getByRole('combobox', { name: 'Measured as' }), 'weight_g');
    await waitFor(() => expect(within(entry).getByRole<HTMLSelectElement>('combobox', { name: 'Measured as' }).value).toBe('weight_g'));
    await isFresh();
    const grams = Number(within(entry).getByRole<HTMLInputElement>('textbox').value);
    await user.selectOptions(within(entry).getByRole('combobox', { name: 'Measured as' }), 'percent_of_water');
    await waitFor(() => expect(Number(within(entry).getByRole<HTMLInputElement>('textbox').value)).toBeCloseTo(50, 0));
    expect(grams).toBeGreaterThan(50);
  });

  it('more than all the water is refused in words at its place', async () => {
    const { user, entry } = await milk();
    await retype(user, within(entry).getByRole('textbox'), '130');
    await waitFor(() => expect(screen.getByTestId('formula-state').dataset.freshness).toBe('stopped'), { timeout: 5000 });
    expect(within(entry).getByRole<HTMLInputElement>('textbox').value).toContain('130');
  });
});

describe('lye', () => {
  it('two lyes: by share of the soap or by weights, and the one typed leads', async () => {
    const { user } = await composition('lye');
    await user.selectOptions(screen.getByTestId('lye-kind'), 'both');
    expect(field('lye.koh.saponification_percent').value).toBe('10.0');
    await retype(user, field('lye.koh.purity_percent'), '90');
    await isFresh();
    await retype(user, field('lye.koh.lye_weight_percent'), '50:50');
    await isFresh();
    // As many grams of KOH as of NaOH: the lighter NaOH makes more of the soap.
    await waitFor(() => expect(Number(field('lye.koh.saponification_percent').value)).toBeLessThan(45));
    expect((await kept()).lye.koh).toMatchObject({ by: 'lye_weight_percent', value: 50, purity_percent: 90 });
  });

  it('no KOH is weighed before its purity is entered', async () => {
    const { user } = await composition('lye');
    await user.selectOptions(screen.getByTestId('lye-kind'), 'koh');
    await waitFor(() => expect(screen.getByTestId('formula-state').dataset.freshness).toBe('stopped'), { timeout: 5000 });
    expect((await kept()).lye.koh).toMatchObject({ value: 100, purity_percent: null });
    expect(screen.queryByTestId('lye.naoh_purity_percent')).toBeNull();
  });

  it('back to NaOH alone gives the same lye as before', async () => {
    const { user } = await composition('lye');
    const before = lye();
    await user.selectOptions(screen.getByTestId('lye-kind'), 'both');
    await user.selectOptions(screen.getByTestId('lye-kind'), 'naoh');
    await isFresh();
    expect(lye()).toBeCloseTo(before, 1);
    expect((await kept()).lye.koh).toBeNull();
  });

  it.each([
    ['percent_of_oils', '33'],
    ['discount_percent', '10'],
    ['water_to_lye', '2.2'],
  ])('water told by %s leads, and the others follow', async (correction, typed) => {
    const { user } = await composition('lye');
    await retype(user, field(correction), typed);
    await isFresh();
    expect((await kept()).water).toEqual({ by: correction, value: Number(typed) });
    const lyeConcentration = Number(field('lye_concentration_percent').value);
    await waitFor(() => expect(Number(field('water_to_lye').value)).toBeCloseTo((100 - lyeConcentration) / lyeConcentration, 1));
  });
});

describe('how it is made', () => {
  it('process and gel are chosen and kept', async () => {
    const { user } = await composition('process');
    await user.selectOptions(choose('Process'), 'hot');
    await user.selectOptions(screen.getByTestId('gel'), 'prevented');
    expect((await kept()).process).toMatchObject({ method: 'hot', gel: 'prevented' });
  });

  it('a batter temperature is typed in either unit and kept in °C', async () => {
    const { user } = await composition('process');
    await retype(user, field('process.batter_temperature_c'), '100 F');
    await user.tab();
    expect((await kept()).process.batter_temperature_c).toBeCloseTo(37.78, 2);
  });

  it('follows the maker who reads °F', async () => {
    localStorage.setItem('sapolin.temperature-unit', JSON.stringify('°F'));
    const { user } = await composition('process');
    await retype(user, field('process.batter_temperature_c'), '104');
    await user.tab();
    expect((await kept()).process.batter_temperature_c).toBeCloseTo(40, 2);
    expect(field('process.batter_temperature_c').value).toBe('104');
    await retype(user, field('process.batter_temperature_c'), '400');
    expect((await screen.findAllByText(/outside 32\s°F to 230\s°F/, {}, { timeout: 5000 })).length).toBeGreaterThan(0);
  });

  it('lye from a master solution is weighed as solution', async () => {
    const { user } = await composition('process');
    const dry = lye();
    await retype(user, field('lye.master_percent'), '50');
    await isFresh();
    await waitFor(() => expect(lye()).toBeCloseTo(2 * dry * 0.99, -1));
  });
});
