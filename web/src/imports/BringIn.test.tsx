import { screen, waitFor } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { show } from '../testing/show';
import { BringIn } from './BringIn';

const PATIENT = { timeout: 6000 };
const TABLE = 'Rezept;Öl;Menge\nBrought bar;Kokosöl;300\n;Rizinusöl;50\nOther bar;Unbekanntes;5\n';
const names = async () => (await answered(api.GET('/api/formulas', { params: { query: { search: 'Brought bar' } } }))).formulas.map((one) => one.name);

describe('a table from elsewhere', () => {
  it('is seen before it is kept, says what is left out, and is undone', async () => {
    const { user } = await show(<BringIn />, { at: '/bring-in/formulas', route: '/bring-in/:kind' });
    const input = await waitFor(() => document.querySelector<HTMLInputElement>('input[type=file]') as HTMLInputElement);
    await user.upload(input, new File([TABLE], 'rezepte.csv', { type: 'text/csv' }));
    // A bare number has no unit yet.
    expect((await screen.findByTestId('import-counts', undefined, PATIENT)).textContent).toContain('0 to bring in');
    await user.selectOptions(screen.getByTestId('import-unit'), 'g');
    await waitFor(() => expect(screen.getByTestId('import-counts').textContent).toMatch(/1 to bring in.*1 left out/), PATIENT);
    expect(await names()).toEqual([]);
    await user.click(screen.getByTestId('keep-table'));
    await waitFor(async () => expect(await names()).toEqual(['Brought bar']), PATIENT);
    await user.click(await screen.findByRole('button', { name: 'Undo' }, PATIENT));
    await waitFor(async () => expect(await names()).toEqual([]), PATIENT);
    await waitFor(() => expect(screen.getByTestId('imports').textContent).toContain('undone'), PATIENT);
    expect(screen.getByTestId('imports').textContent).toContain('1 formula');
  });
});
