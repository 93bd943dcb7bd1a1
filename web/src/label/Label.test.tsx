import { fireEvent, screen, waitFor } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { retype, show } from '../testing/show';
import { Label } from './Label';

const PATIENT = { timeout: 6000 };

async function open(code: string) {
  const { batches } = await answered(api.GET('/api/batches', { params: { query: { limit: 40 } } }));
  const id = batches.find((one) => one.code === code)?.id ?? '';
  const drawn = await show(<Label />, { at: `/batches/${id}/label`, route: '/batches/:batchId/label' });
  await screen.findByTestId('label-drawing', undefined, PATIENT);
  return { ...drawn, id };
}

const kept = async (id: string) => (await answered(api.GET('/api/labels/{batch_id}', { params: { path: { batch_id: id } } }))).design;
const field = (testId: string) => screen.getByTestId<HTMLInputElement>(testId);

describe('a label', () => {
  it('lists what is in the bar, each line with how its weight comes about', async () => {
    const { user } = await open('B-093');
    const lines = await screen.findByTestId('ingredients');
    expect(lines.textContent).toContain('sodium olivate');
    await user.click(screen.getAllByRole('button', { name: /Wasser|water/i })[0] as HTMLElement);
    expect(await screen.findByText(/dries off by the last day of sale/)).toBeTruthy();
  });

  it('marks words that say more than washing, offers others, and takes them with undo', async () => {
    const { user, id } = await open('B-092');
    await waitFor(() => expect(screen.getAllByTestId('claims')[0]?.textContent).toContain('says more than washing'));
    await user.click(screen.getByRole('button', { name: 'Say “washes dry skin gently”' }));
    expect(field('label-claim').value).toContain('washes dry skin gently');
    await waitFor(async () => expect((await kept(id)).claim).toContain('washes dry skin gently'), PATIENT);
    await user.click(screen.getByRole('button', { name: 'Undo' }));
    expect(field('label-claim').value).toContain('heals dry skin');
    await waitFor(async () => expect((await kept(id)).claim).toContain('heals dry skin'), PATIENT);
  });

  it('says why a size cannot be, keeps what was typed, and prints nothing meanwhile', async () => {
    const { user } = await open('B-091');
    await retype(user, field('width_mm'), '4');
    expect((await screen.findAllByText(/4 mm is no size for a label/, undefined, PATIENT)).length).toBeGreaterThan(0);
    expect(field('width_mm').value).toBe('4');
    expect(screen.getByTestId<HTMLButtonElement>('print-labels').disabled).toBe(true);
    await retype(user, field('width_mm'), '60');
    await screen.findByTestId('label-drawing', undefined, PATIENT);
  });

  it('draws every line where the server put it', async () => {
    await open('B-092');
    const drawing = await screen.findByTestId('label-drawing');
    const lines = [...drawing.querySelectorAll('text')].map((one) => one.textContent);
    expect(lines).toContain('Hut guest bar');
    expect(drawing.querySelectorAll('path')).toHaveLength(1);
    fireEvent.change(screen.getByTestId('label-qr'), { target: { value: '' } });
    await waitFor(() => expect(screen.getByTestId('label-drawing').querySelectorAll('path')).toHaveLength(0), PATIENT);
    fireEvent.change(screen.getByTestId('label-qr'), { target: { value: 'batch' } });
  });
});
