import { screen, waitFor, within } from '@testing-library/react';
import { beforeEach, describe, expect, it, vi } from 'vitest';

import { answered, api } from '../api/client';
import { newBatch, type Batch } from '../testing/kitchen';
import { silence } from '../testing/network';
import { retype, show } from '../testing/show';
import { recallOutbox } from '../sync/outbox';
import { Cure } from './Cure';

/** The stream of the scale, with nothing on it. */
vi.stubGlobal('EventSource', class { close() {} });

let batch: Batch;

const open = (id: string) => show(<Cure />, { at: `/batches/${id}/cure`, route: '/batches/:batchId/cure' });
const view = () => answered(api.GET('/api/batches/{batch_id}/cure', { params: { path: { batch_id: batch.id } } }));
const isEvent = (request: Request) => request.method === 'POST' && request.url.endsWith('/cure/events');

async function demoBatch(code: string): Promise<string> {
  const { batches } = await answered(api.GET('/api/batches', { params: { query: { search: code } } }));
  const found = batches.find((one) => one.code === code);
  if (found === undefined) throw new Error(`The demo has no ${code}.`);
  return found.id;
}

describe('a batch in its mould', () => {
  beforeEach(async () => {
    batch = await newBatch();
    await batch.send({ kind: 'started', targets_g: {} });
    await batch.upTo('');
    await batch.send({ kind: 'finished' });
  });

  it('is unmoulded, cut and counted, and put on a tray', async () => {
    const { user } = await open(batch.id);
    expect((await screen.findByTestId('unmould-window')).textContent).toMatch(/Unmould .* to /);
    await user.click(screen.getByTestId('unmould-clean'));
    // It was poured a moment ago: that is asked about.
    expect((await screen.findByTestId('asked')).textContent).toContain('Out of the mould');
    expect((await view()).events).toHaveLength(0);
    await user.click(screen.getByTestId('sure'));
    await user.click(await screen.findByTestId('as-planned'));
    const planned = (await view()).planned[0]?.bars ?? 0;
    expect(screen.getByTestId<HTMLInputElement>('bars').value).toBe(String(planned));
    await user.click(screen.getByTestId('record-cut'));
    expect((await screen.findByTestId('ready-range')).textContent).toMatch(/nine times in ten/);
    await screen.findByRole('option', { name: /^R4/ });
    await user.selectOptions(screen.getByTestId('move-to'), 'R4');
    await retype(user, screen.getByTestId('move-bars'), '2');
    await user.click(screen.getByTestId('move'));
    await waitFor(async () => expect((await view()).state.trays).toEqual({ R4: 2 }));
    await user.click(await screen.findByRole('button', { name: 'Strike entry 3' }));
    await user.type(await screen.findByTestId('strike-reason'), 'another tray');
    await user.click(screen.getByTestId('strike'));
    await waitFor(async () => expect((await view()).state.trays).toEqual({}));
  });

  it('asks about what cannot quite be, and takes it when it is sure', async () => {
    const { user } = await open(batch.id);
    await user.click(await screen.findByTestId('press-firm'));
    expect((await screen.findByTestId('asked')).textContent).toContain('Cold fat can feel firm');
    expect((await view()).events).toHaveLength(0);
    await user.click(screen.getByTestId('sure'));
    await waitFor(() => expect(screen.getByTestId('unmould-window').textContent).toContain('unmould and cut it now'));
  });

  it('keeps what the server did not answer, and records it once', async () => {
    const { user } = await open(batch.id);
    await user.click(await screen.findByTestId('unmould-clean'));
    const sure = await screen.findByTestId('sure');
    silence(1, 'after', isEvent);
    await user.click(sure);
    expect(recallOutbox(`${batch.id}~cure`)).toHaveLength(1);
    await screen.findByTestId('bars', undefined, { timeout: 8000 });
    expect((await view()).events).toHaveLength(1);
    expect(recallOutbox(`${batch.id}~cure`)).toEqual([]);
  });
});

describe('bars on the rack', () => {
  it('shows likely causes from the record of the batch', async () => {
    await open(await demoBatch('B-098'));
    const ash = within(await screen.findByTestId('fault-ash'));
    expect(ash.getByText('Too much water')).toBeTruthy();
    expect(ash.getAllByRole('listitem')[0]?.textContent).toMatch(/On record: Lye at 29\s%: wet/);
  });

  it('offers 9.3 for a pH of 93, and a weight that is too high is asked about', async () => {
    const { user } = await open(await demoBatch('B-096'));
    await retype(user, await screen.findByTestId('ph'), '93');
    await user.click(screen.getByTestId('record-fit'));
    expect((await screen.findByTestId('asked')).textContent).toContain('It is\u00a09.3');
    await retype(user, screen.getByTestId('bar-weight'), '140');
    await user.click(screen.getByTestId('take-bar'));
    await waitFor(() => expect(screen.getAllByTestId('asked').some((one) => one.textContent?.includes('Bars lose weight'))).toBe(true));
  });

  it('sells no bar that failed its test', async () => {
    const { user } = await open(await demoBatch('B-094'));
    expect((await screen.findByTestId('fit')).textContent).toContain('Not fit');
    await retype(user, screen.getByTestId('leave-bars'), '1');
    await user.click(screen.getByTestId('record-leave'));
    expect((await screen.findByTestId('asked')).textContent).toContain('not fit to use');
  });

  it('says that a batch is not poured yet', async () => {
    await open(await demoBatch('B-103'));
    expect(await screen.findByText(/not poured yet/)).toBeTruthy();
  });
});
