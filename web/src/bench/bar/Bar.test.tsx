import { screen, waitFor, within } from '@testing-library/react';
import { beforeEach, describe, expect, it } from 'vitest';

import { answered, api } from '../../api/client';
import type { FormulaRecord } from '../../api/types';
import { field, isFresh, isSaved, keptOf, openBench } from '../../testing/bench';
import { newBatch, ownFormula } from '../../testing/kitchen';
import { retype } from '../../testing/show';

let record: FormulaRecord;

/** The bench with one page of the bar open. */
async function bar(tab: string) {
  const drawn = await openBench(record);
  await drawn.user.click(screen.getByTestId(`tab-${tab}`));
  return drawn;
}

const share = (oil: string) => Number(field(`amount-${oil}`).value);
const numbers = (text: string | null) =>
  [...(text ?? '').replace(/(\d)\s(?=\d{3})/g, '$1').replaceAll('−', '-').matchAll(/-?\d+(\.\d+)?/g)].map(([number]) => Number(number));

describe('a bar', () => {
  beforeEach(async () => {
    record = await ownFormula(`Bar ${crypto.randomUUID().slice(0, 6)}`);
  });

  it('tells firmness over time, rising, and asks for its explanation', async () => {
    const { user } = await bar('expect');
    const firm = screen.getByRole('button', { name: /Firm over time/ });
    const [young, cured, best] = numbers(firm.textContent);
    expect(young).toBeLessThan(cured ?? 0);
    expect(cured).toBeLessThanOrEqual(best ?? 0);
    await user.click(firm);
    expect(await screen.findByTestId('explanation')).toBeTruthy();
  });

  it('lists what acts beside the oils, with reasons, as many as the tab says', async () => {
    const { user } = await bar('effects');
    const list = screen.getByRole('list', { name: /Effects beside the fatty acids/ });
    const before = within(list).getAllByRole('listitem').length;
    expect(numbers(screen.getByTestId('tab-effects').textContent)).toEqual([before]);
    await user.click(screen.getByTestId('tab-additives'));
    await user.type(screen.getByTestId('add-additive'), 'sodium lactate');
    await user.keyboard('{Enter}');
    await isFresh();
    await waitFor(() => expect(within(list).getAllByRole('listitem')).toHaveLength(before + 1));
  });

  it('offers trades, and makes the one taken', async () => {
    const { user } = await bar('trades');
    await retype(user, field('amount-coconut'), '36');
    await retype(user, field('amount-olive-refined'), '24');
    await isFresh();
    const trade = (await screen.findAllByTestId(/^trade-coconut-/, {}, { timeout: 5000 }))[0] as HTMLElement;
    const taken = trade.dataset.testid?.replace('trade-coconut-', '') ?? '';
    const [points = 0] = numbers(trade.textContent);
    const [gives, takes] = [share('coconut'), share(taken)];
    await user.click(trade);
    expect(share('coconut')).toBeCloseTo(gives - points, 5);
    expect(share(taken)).toBeCloseTo(takes + points, 5);
    await user.keyboard('{Control>}z{/Control}');
    expect(share('coconut')).toBe(gives);
  });

  it('keeps the best move in its place while the blend changes, and makes it when it is of the blend as it stands', async () => {
    const { user } = await openBench(record);
    await retype(user, field('amount-coconut'), '36');
    await retype(user, field('amount-olive-refined'), '24');
    const move = await screen.findByTestId('best-move', {}, { timeout: 5000 });
    await waitFor(() => expect(move.getAttribute('aria-disabled')).toBe('false'));
    await retype(user, field('amount-olive-refined'), '25');
    expect(screen.getByTestId('best-move').getAttribute('aria-disabled')).toBe('true');
    await user.click(screen.getByTestId('best-move'));
    expect([share('coconut'), share('olive-refined')]).toEqual([36, 25]);
    await retype(user, field('amount-olive-refined'), '24');
    await waitFor(() => expect(screen.getByTestId('best-move').getAttribute('aria-disabled')).toBe('false'), { timeout: 5000 });
    const [percent = 0] = numbers(screen.getByTestId('best-move').textContent);
    await user.click(screen.getByTestId('best-move'));
    expect(share('coconut')).toBeCloseTo(36 - percent, 5);
  });

  it('reads quick result, and names the oils without a price', async () => {
    const { user } = await bar('indices');
    const ratio = screen.getByRole('button', { name: /Saturated : unsat/ });
    const [saturated = 0, unsaturated = 0] = numbers(ratio.textContent);
    expect(saturated + unsaturated).toBeGreaterThan(97);
    expect(saturated + unsaturated).toBeLessThanOrEqual(101);
    await user.type(screen.getByTestId('add-oil'), 'jojoba 4');
    await user.keyboard('{Enter}');
    await retype(user, field('amount-olive-refined'), '30');
    await isFresh();
    await waitFor(() => expect(screen.getByTestId('oil-cost').textContent).toMatch(/no price: .*jojoba/), { timeout: 5000 });
  });

  it('keeps notes as one step of undo', async () => {
    const { user } = await bar('notes');
    await user.type(screen.getByTestId('notes'), ' More shea next time.');
    await isSaved();
    expect((await keptOf(record)).notes).toContain('More shea next time.');
    expect(screen.getByTestId('tab-notes').textContent).toBe('Notes •');
  });

  it('restores what an earlier batch wrote for next time', async () => {
    const batch = await newBatch();
    await batch.send({ kind: 'started', targets_g: {} });
    await batch.send({ kind: 'noted', text: 'Pour cooler.', next_time: true });
    const { formula_id: formulaId } = (await batch.run()).record;
    record = await answered(api.GET('/api/formulas/{formula_id}', { params: { path: { formula_id: formulaId ?? '' } } }));
    await bar('notes');
    const list = await screen.findByRole('list', { name: /earlier batches/ });
    expect(within(list).getByText('Pour cooler.')).toBeTruthy();
  });
});

describe('a paste', () => {
  beforeEach(async () => {
    record = await ownFormula(`Paste ${crypto.randomUUID().slice(0, 6)}`, 'Wool-wash paste');
  });

  it('tells what it holds, and what it yields when thinned', async () => {
    const { user } = await bar('expect');
    const [paste = 0] = numbers(screen.getByTestId('paste-paste').textContent);
    const [soap = 0] = numbers(screen.getByTestId('paste-soap-in-it').textContent);
    await retype(user, field('dilution.soap_percent'), '25');
    await isFresh();
    const yields = await screen.findByTestId('paste-yield');
    const [thinned = 0] = numbers(yields.textContent);
    // The same soap in more water.
    expect((thinned * 25) / (paste * soap)).toBeCloseTo(1, 1);
  });

  it('is mixed with another by weight, without any change to either', async () => {
    const other = await ownFormula(`Other paste ${crypto.randomUUID().slice(0, 6)}`, 'Wool-wash paste');
    const { user } = await bar('mix');
    const before = await keptOf(record);
    await user.click(await screen.findByTestId('mix-with'));
    await user.click(await screen.findByRole('option', { name: other.formula.name }));
    await waitFor(() => expect(screen.getByTestId('paste-mix').textContent).toMatch(/soap in 1\D?000/), { timeout: 5000 });
    await retype(user, screen.getByRole('textbox', { name: new RegExp(`^${other.formula.name}`) }), '250');
    await waitFor(() => expect(screen.getByTestId('paste-mix').textContent).toMatch(/soap in 750/), { timeout: 5000 });
    await retype(user, screen.getByTestId('mix-thin-to'), '20');
    await waitFor(() => expect(screen.getByTestId('paste-mix').textContent).toMatch(/of water it makes/), { timeout: 5000 });
    expect(await keptOf(record)).toEqual(before);
  });
});
