import { screen, within } from '@testing-library/react';
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
    expect((await waiting.findByText(/Hut guest bar/)).textContent).toContain('Curing');
    expect(waiting.getByText(/fit for use from about .*in \d weeks/)).toBeTruthy();
  });
});
