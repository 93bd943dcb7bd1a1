import { screen, waitFor, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { demoFormula, ownFormula } from '../testing/kitchen';
import { address, show } from '../testing/show';
import { Trials } from './Compare';

const trials = (keys: string[]) => show(<Trials />, { at: `/trials?with=${keys.join(',')}`, route: '/trials' });
const rows = () => within(screen.getByTestId('comparison')).getAllByRole('row');

describe('trials', () => {
  it('ask for something to compare', async () => {
    await trials([]);
    expect(await screen.findByText(/Choose two to six/)).toBeTruthy();
  });

  it('put what differs first, and can show that alone', async () => {
    const [guest, winter] = [await demoFormula('Hut guest bar'), await demoFormula('Winter face bar')];
    const { user } = await trials([guest.id, winter.id]);
    await screen.findByTestId('comparison', {}, { timeout: 5000 });
    const all = rows().length;
    await user.click(screen.getByRole('checkbox', { name: /only what differs/ }));
    await waitFor(() => expect(rows().length).toBeLessThanOrEqual(all));
    expect(rows().map((row) => row.textContent).join()).toMatch(/Palm/);
  });

  it('hold the others against whichever is chosen', async () => {
    const [guest, winter] = [await demoFormula('Hut guest bar'), await demoFormula('Winter face bar')];
    const { user } = await trials([guest.id, winter.id]);
    await screen.findByTestId('comparison', {}, { timeout: 5000 });
    await user.click(screen.getByRole('button', { name: 'Hold the others against Winter face bar' }));
    await waitFor(() => expect(screen.getByTestId('compared-1').textContent).toContain('Winter face bar'));
    expect(address()).toContain(`with=${winter.id},${guest.id}`.replace(',', '%2C').replace('with=', 'with='));
  });

  it('tell in words what changed from version to version', async () => {
    const guest = await demoFormula('Hut guest bar');
    await trials([guest.id]);
    const history = await screen.findByTestId('history', {}, { timeout: 5000 });
    await waitFor(() => expect(history.textContent).toContain('Version 1'));
    expect(history.textContent).toMatch(/Castor in at 5\s%/);
    expect(history.textContent).toMatch(/Palm 30\s% → 26\s%/);
  });

  it('make a set that changes one thing each, at test size', async () => {
    const base = await ownFormula('Trial base');
    const { user } = await trials([base.id]);
    const boxes = await screen.findAllByTestId(/^trial-/, {}, { timeout: 5000 });
    expect(boxes.length).toBeGreaterThan(2);
    await user.click(boxes.find((box) => box.dataset.testid !== 'trial-base') as HTMLElement);
    await user.click(screen.getByTestId('make-trials'));
    await waitFor(() => expect(screen.getByTestId('compared-2')).toBeTruthy(), { timeout: 5000 });
    expect(address()).not.toContain(base.id);
  });

  it('offer the comparison as CSV and PDF', async () => {
    const guest = await demoFormula('Hut guest bar');
    await trials([guest.id]);
    await screen.findByTestId('comparison', {}, { timeout: 5000 });
    for (const kind of ['csv', 'pdf']) expect(screen.getByTestId(`download-${kind}`)).toBeTruthy();
  });
});
