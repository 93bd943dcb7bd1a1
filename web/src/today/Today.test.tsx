import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { show } from '../testing/show';
import { Today } from './Today';

describe('today', () => {
  it('says what is to be done, the first thing as the main button', async () => {
    await show(<Today />);
    const toDo = within(await screen.findByTestId('to-do'));
    const going = await toDo.findByRole('link', { name: /^Go on: Make day Winter face bar B-102/ });
    expect(going.getAttribute('href')).toMatch(/^\/batches\/\w{32}\/make$/);
    expect(toDo.getByText(/^at “/)).toBeTruthy();
    expect(toDo.getByRole('link', { name: /^Begin: Make Upper hut milk bar/ })).toBeTruthy();
  });

  it('says what waits, and until when', async () => {
    await show(<Today />);
    const waiting = within(await screen.findByTestId('waiting'));
    expect((await waiting.findByText(/Nut-free winter body bar/)).textContent).toContain('Curing');
    expect(waiting.getAllByText(/ready about .*in \d weeks/).length).toBeGreaterThan(0);
  });

  it('follows what is on the rack, and shows it from above', async () => {
    await show(<Today />);
    const toDo = within(await screen.findByTestId('to-do'));
    expect((await toDo.findByRole('link', { name: /^Test: Test before use Hut guest bar B-095/ })).getAttribute('href')).toMatch(/\/cure$/);
    expect(toDo.getByRole('link', { name: /Not fit to use Guides' resin-hand scrub B-094/ })).toBeTruthy();
    expect(await screen.findByText(/B-096: 8, B-097: 6/)).toBeTruthy();
    const now = Number.parseInt((await screen.findByTestId('places-free')).textContent ?? '', 10);
    const later = new Date(Date.now() + 40 * 86_400_000).toISOString().slice(0, 10);
    fireEvent.change(screen.getByTestId('rack-on'), { target: { value: later } });
    await waitFor(() => expect(Number.parseInt(screen.getByTestId('places-free').textContent ?? '', 10)).toBeGreaterThan(now));
  });

  it('takes “turned” with one touch, and takes it back', async () => {
    const { user } = await show(<Today />);
    await user.click(await screen.findByRole('button', { name: 'Turned: Galley block B-097' }));
    await waitFor(() => expect(screen.queryByRole('button', { name: 'Turned: Galley block B-097' })).toBeNull());
    await user.click(await screen.findByRole('button', { name: 'Undo' }));
    expect(await screen.findByRole('button', { name: 'Turned: Galley block B-097' })).toBeTruthy();
  });

  it('puts off until tomorrow, and takes it back', async () => {
    const { user } = await show(<Today />);
    await user.click(await screen.findByRole('button', { name: 'Tomorrow: Look at Hut guest bar B-092' }));
    await waitFor(() => expect(screen.queryByRole('link', { name: /^Look: Look at Hut guest bar B-092/ })).toBeNull());
    await user.click(await screen.findByRole('button', { name: 'Undo' }));
    expect(await screen.findByRole('link', { name: /^Look: Look at Hut guest bar B-092/ })).toBeTruthy();
    // A loaf in its mould does not wait.
    expect(screen.queryByRole('button', { name: /Tomorrow: Unmould/ })).toBeNull();
  });
});
