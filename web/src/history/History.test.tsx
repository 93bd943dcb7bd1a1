import { screen, waitFor, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { keptOf } from '../testing/bench';
import { demoFormula, ownFormula } from '../testing/kitchen';
import { address, show } from '../testing/show';
import { History } from './History';

const history = (id: string) => show(<History />, { at: `/formulas/${id}/history`, route: '/formulas/:formulaId/history' });

describe('the history of a formula', () => {
  it('tells in words what changed from version to version, and its batches', async () => {
    const guest = await demoFormula('Hut guest bar');
    await history(guest.id);
    const versions = await screen.findByTestId('history', {}, { timeout: 5000 });
    await waitFor(() => expect(versions.textContent).toContain('Version 1'));
    expect(versions.textContent).toMatch(/Castor in at 5\s%/);
    expect(versions.textContent).toMatch(/Palm 30\s% → 26\s%/);
    expect((await screen.findAllByRole('link', { name: 'B-101' }))[0]?.getAttribute('href')).toMatch(/^\/batches\//);
  });

  it('goes back to a version, and keeps what was there', async () => {
    const record = await ownFormula('Bar with a past');
    const at = { params: { path: { formula_id: record.id } } };
    await answered(api.POST('/api/formulas/{formula_id}/versions', { ...at, body: { revision: record.revision, note: 'first' } }));
    const changed = { ...record.formula, superfat_percent: 8 };
    await answered(api.PUT('/api/formulas/{formula_id}', { ...at, body: { revision: record.revision, formula: changed } }));
    const { user } = await history(record.id);
    const versions = within(await screen.findByTestId('history', {}, { timeout: 5000 }));
    await user.click(await versions.findByRole('button', { name: 'Go back to it' }));
    await waitFor(() => expect(address()).toBe(`/formulas/${record.id}`));
    expect((await keptOf(record)).superfat_percent).toBe(record.formula.superfat_percent);
    const kept = await answered(api.GET('/api/formulas/{formula_id}/versions', at));
    expect(kept.map((version) => version.formula.superfat_percent)).toEqual([8, record.formula.superfat_percent]);
  });
});
