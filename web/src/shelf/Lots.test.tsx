import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { retype, show } from '../testing/show';
import { Lots } from './Lots';

const stock = () => answered(api.GET('/api/stock'));

describe('the shelf', () => {
  it('tells what is free, short, and to be used first', async () => {
    await show(<Lots />);
    const lard = within(await screen.findByTestId('stock-lard'));
    expect(lard.getByText('short')).toBeTruthy();
    expect((await screen.findByTestId('short')).textContent).toContain('Lard');
    expect(screen.getByTestId('use-first').textContent).toMatch(/smells of old paint/);
  });

  it('takes goods in, asks for the purity of lye, and offers one whose point slipped', async () => {
    const { user } = await show(<Lots />);
    await user.click(await screen.findByTestId('goods-in'));
    await user.click(await screen.findByTestId('lot-material'));
    await user.type(screen.getByTestId('lot-material'), 'Sodium hyd');
    await user.click(await screen.findByRole('option', { name: /Sodium hydroxide/, hidden: true }));
    await user.type(screen.getByTestId('lot-code'), 'N9');
    await retype(user, screen.getByTestId('lot-grams'), '1000');
    await user.click(screen.getByTestId('keep-lot'));
    expect((await screen.findByTestId('asked')).textContent).toContain('purity of this lye is not entered');
    await retype(user, screen.getByTestId('lot-purity'), '9,9');
    await user.click(screen.getByTestId('keep-lot'));
    await user.click(await screen.findByRole('button', { name: /It is/ }));
    await waitFor(async () => expect((await stock()).materials.flatMap((one) => one.lots).find((lot) => lot.lot.code === 'N9')?.lot.purity_percent).toBe(99));
  });

  it('books a count, says when more is wasted than there is, and stops a lot that smells old', async () => {
    const { user } = await show(<Lots />);
    await user.click(await screen.findByRole('button', { name: /^K4 .*Canola/ }));
    await retype(user, await screen.findByTestId('lot-weight'), '9999');
    await user.click(screen.getByTestId('lot-waste'));
    expect((await screen.findByTestId('asked')).textContent).toContain('of lot K4 are in hand');
    await retype(user, screen.getByTestId('lot-weight'), '1150');
    await user.click(screen.getByTestId('lot-count'));
    await waitFor(() => expect(screen.getByTestId('lot-ledger').textContent).toContain('Counted'));
    fireEvent.change(screen.getByTestId('lot-why'), { target: { value: 'crayons' } });
    await user.click(screen.getByTestId('lot-off'));
    expect((await screen.findByText(/Stopped: crayons/)).textContent).toContain('Nothing is taken');
    await user.click(screen.getByTestId('lot-release'));
    await waitFor(() => expect(screen.queryByText(/Nothing is taken/)).toBeNull());
  });
});
