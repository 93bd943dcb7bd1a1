import { screen, waitFor, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { retype, show } from '../testing/show';
import { Buying } from './Buying';

const PATIENT = { timeout: 6000 };
const LIST = 'Article;Pack;Price\nCoconut oil;1 kg;5,40\nMystery wax;1 kg;3,00\nOlive oil;1,250 l;8\n';
const also = async () => (await answered(api.GET('/api/workshop'))).also_buy.map((one) => one.material);

describe('what to buy', () => {
  it('tells the cheapest packs, supplier by supplier, and what is needed', async () => {
    await show(<Buying />);
    const order = within(await screen.findByTestId('order-Valley store', undefined, PATIENT));
    expect(order.getByText(/Freight/)).toBeTruthy();
    expect(screen.getByTestId('needs').textContent).toContain('short for B-103');
    expect(Number(screen.getByTestId('buy-total').textContent)).toBeGreaterThan(10);
  });

  it('takes something else onto the list, and off it again', async () => {
    const { user } = await show(<Buying />);
    await screen.findByTestId('buy-total', undefined, PATIENT);
    await user.click(screen.getByTestId('also-material'));
    await user.type(screen.getByTestId('also-material'), 'Castor');
    await user.click(await screen.findByRole('option', { name: 'Castor', hidden: true }));
    await retype(user, screen.getByTestId('also-grams'), '400');
    await user.click(screen.getByTestId('also-add'));
    await waitFor(async () => expect(await also()).toContain('castor'), PATIENT);
    await user.click(await screen.findByRole('button', { name: 'Do not buy Castor beside' }, PATIENT));
    await waitFor(async () => expect(await also()).not.toContain('castor'), PATIENT);
  });

  it('takes two things off it one right after the other', async () => {
    await answered(api.PATCH('/api/workshop', { body: { also_buy: [{ material: 'castor', grams: 400 }, { material: 'shea', grams: 300 }] } }));
    const { user } = await show(<Buying />);
    const buttons = await Promise.all(['Castor', 'Shea butter'].map((name) => screen.findByRole('button', { name: `Do not buy ${name} beside` }, PATIENT)));
    for (const button of buttons) await user.click(button);
    await waitFor(async () => expect(await also()).toEqual([]), PATIENT);
  });

  it('shows how a list is read, asks where it is not sure, and keeps what is usable', async () => {
    const { user } = await show(<Buying />);
    await user.click(await screen.findByTestId('read-price-list'));
    const input = document.querySelector<HTMLInputElement>('input[type=file]');
    await user.upload(input as HTMLInputElement, new File([LIST], 'list.csv', { type: 'text/csv' }));
    expect((await screen.findByTestId('list-counts', undefined, PATIENT)).textContent).toMatch(/1 to buy from.*1 to choose.*1 left out/);
    expect(screen.getByTestId('list-rows').textContent).toContain('may be thousands');
    await user.selectOptions(screen.getByTestId('decimal'), ',');
    await waitFor(() => expect(screen.getByTestId('list-counts').textContent).toContain('2 to buy from'), PATIENT);
    expect(screen.getByTestId<HTMLButtonElement>('keep-list').disabled).toBe(true);
    await user.type(screen.getByTestId('list-supplier'), 'Test stall');
    await user.click(screen.getByTestId('keep-list'));
    await user.click(await screen.findByRole('button', { name: 'Archive the list of Test stall' }, PATIENT));
    await waitFor(() => expect(screen.queryByRole('button', { name: 'Archive the list of Test stall' })).toBeNull(), PATIENT);
  });
});
