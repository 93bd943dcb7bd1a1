import { screen, waitFor, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { demoFormula, ownFormula } from '../testing/kitchen';
import { address, show } from '../testing/show';
import { Compare } from './Compare';

const compare = (keys: string[], id = keys[0]) =>
  show(<Compare />, { at: `/formulas/${id}/compare?with=${keys.join(',')}`, route: '/formulas/:formulaId/compare' });
const rows = () => within(screen.getByTestId('comparison')).getAllByRole('row');

describe('compare', () => {
  it('ask for something to compare', async () => {
    await compare([], (await demoFormula('Hut guest bar')).id);
    expect(await screen.findByText(/Choose two to six/)).toBeTruthy();
  });

  it('put what differs first, and can show that alone', async () => {
    const [guest, winter] = [await demoFormula('Hut guest bar'), await demoFormula('Winter face bar')];
    const { user } = await compare([guest.id, winter.id]);
    await screen.findByTestId('comparison', {}, { timeout: 5000 });
    const all = rows().length;
    await user.click(screen.getByRole('checkbox', { name: /only what differs/ }));
    await waitFor(() => expect(rows().length).toBeLessThanOrEqual(all));
    expect(rows().map((row) => row.textContent).join()).toMatch(/Palm/);
  });

  it('hold the others against whichever is chosen', async () => {
    const [guest, winter] = [await demoFormula('Hut guest bar'), await demoFormula('Winter face bar')];
    const { user } = await compare([guest.id, winter.id]);
    await screen.findByTestId('comparison', {}, { timeout: 5000 });
    await user.click(await screen.findByRole('button', { name: 'Hold the others against Winter face bar' }));
    await waitFor(() => expect(screen.getByTestId('compared-1').textContent).toContain('Winter face bar'));
    expect(address()).toContain(`with=${winter.id},${guest.id}`.replace(',', '%2C').replace('with=', 'with='));
  });

  it('make a set that changes one thing each, at test size', async () => {
    const base = await ownFormula('Trial base');
    const { user } = await compare([base.id]);
    const boxes = await screen.findAllByTestId(/^trial-/, {}, { timeout: 5000 });
    expect(boxes.length).toBeGreaterThan(2);
    await user.click(boxes.find((box) => box.dataset.testid !== 'trial-base') as HTMLElement);
    await user.click(screen.getByTestId('make-trials'));
    await waitFor(() => expect(screen.getByTestId('compared-2')).toBeTruthy(), { timeout: 5000 });
    expect(address()).not.toContain(base.id);
  });

  it('offer the comparison as CSV and PDF', async () => {
    const guest = await demoFormula('Hut guest bar');
    await compare([guest.id]);
    await screen.findByTestId('comparison', {}, { timeout: 5000 });
    for (const kind of ['csv', 'pdf']) expect(screen.getByTestId(`download-${kind}`)).toBeTruthy();
  });
});
