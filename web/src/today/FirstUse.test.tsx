import { screen, waitFor, within } from '@testing-library/react';
import { afterEach, describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { Bench } from '../bench/Bench';
import { field, isSaved } from '../testing/bench';
import { remember } from '../testing/made';
import { address, retype, show } from '../testing/show';
import { FirstUse } from './FirstUse';

const workshop = () => answered(api.GET('/api/workshop'));
const made = () => {
  const id = address().split('/').at(-1) ?? '';
  remember(`/api/formulas/${id}`);
  return id;
};

afterEach(async () => {
  await answered(api.PATCH('/api/workshop', { body: { tubs: [], habits: { superfat_percent: 5, water_by: 'lye_concentration_percent', water_value: 33, method: 'cold' } } }));
});

describe('an empty workshop', () => {
  it('keeps what is answered as soon as it is', async () => {
    const { user } = await show(<FirstUse />);
    await user.type(await screen.findByTestId('tub-name'), 'Blue tub');
    expect(screen.getByTestId<HTMLButtonElement>('keep-tub').disabled).toBe(true);
    await user.type(screen.getByTestId('tub-purity'), '99.2');
    await user.click(screen.getByTestId('keep-tub'));
    await waitFor(async () => expect((await workshop()).tubs).toEqual([{ name: 'Blue tub', lye: 'naoh', purity_percent: 99.2 }]));
    await retype(user, screen.getByTestId('habit-superfat'), '7');
    await waitFor(async () => expect((await workshop()).habits?.superfat_percent).toBe(7));
    expect((await workshop()).tubs).toHaveLength(1);
  });

  it('says where a purity cannot be, and keeps what was there', async () => {
    const { user } = await show(<FirstUse />);
    await user.type(await screen.findByTestId('tub-name'), 'Wrong tub');
    await user.type(screen.getByTestId('tub-purity'), '0.99');
    await user.click(screen.getByTestId('keep-tub'));
    expect((await screen.findByRole('alert')).textContent).toMatch(/99/);
    expect((await workshop()).tubs).toEqual([]);
    expect(screen.getByTestId<HTMLInputElement>('tub-name').value).toBe('Wrong tub');
    await retype(user, screen.getByTestId('tub-purity'), '99');
    await user.click(screen.getByTestId('keep-tub'));
    await waitFor(async () => expect((await workshop()).tubs).toHaveLength(1));
    await waitFor(() => expect(screen.getByTestId<HTMLInputElement>('tub-name').value).toBe(''));
  });

  it('keeps two answers given one right after the other, and the one that was taken back', async () => {
    const { user } = await show(<FirstUse />);
    await user.click(await screen.findByRole('radio', { name: 'hot process' }));
    await retype(user, screen.getByTestId('habit-superfat'), '8');
    const confirms = screen.getByTestId<HTMLInputElement>('confirms-lots');
    await user.click(confirms);
    await user.click(confirms);
    await waitFor(async () => expect(await workshop()).toMatchObject({ habits: { method: 'hot', superfat_percent: 8 } }));
    expect(await screen.findByText('Saved')).toBeTruthy();
    expect((await workshop()).confirms_lots).toBe(false);
  });

  it('keeps where its day begins', async () => {
    const { user } = await show(<FirstUse />);
    await user.selectOptions(await screen.findByTestId('time-zone'), 'Pacific/Auckland');
    await waitFor(async () => expect((await workshop()).time_zone).toBe('Pacific/Auckland'));
    await user.selectOptions(screen.getByTestId('time-zone'), '');
    await waitFor(async () => expect((await workshop()).time_zone).toBe(''));
  });

  it('begins with a starter, whose lye waits for the tub that is offered', async () => {
    await answered(api.PATCH('/api/workshop', { body: { tubs: [{ name: 'Blue tub', lye: 'naoh', purity_percent: 99.2 }] } }));
    const first = await show(<FirstUse />);
    await first.user.click(await screen.findByTestId('starter-plants'));
    await waitFor(() => expect(address()).toMatch(/^\/formulas\/\w{32}$/));
    const id = made();
    first.unmount();
    const { user } = await show(<Bench />, { at: `/formulas/${id}`, route: '/formulas/:formulaId' });
    // Qualities are live before the lye is.
    await waitFor(() => expect(Number(screen.getByTestId('points-hardness').textContent)).toBeGreaterThan(30));
    const hint = within(await screen.findByTestId('lye-hint'));
    expect(field('lye.naoh_purity_percent').value).toBe('');
    await user.click(hint.getByRole('button', { name: /Blue tub/ }));
    await waitFor(() => expect(screen.getByTestId('formula-state').textContent).toBe('✓ result complete'), { timeout: 5000 });
    expect(field('lye.naoh_purity_percent').value).toBe('99.2');
    await isSaved();
  });
});
