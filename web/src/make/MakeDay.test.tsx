import { screen, waitFor, within } from '@testing-library/react';
import { beforeEach, describe, expect, it, vi } from 'vitest';

import { newBatch, ownFormula, type Batch } from '../testing/kitchen';
import { show } from '../testing/show';
import { MakeDay } from './MakeDay';

// jsdom has no server-sent events; the scale stays silent here.
vi.stubGlobal(
  'EventSource',
  class {
    addEventListener() {}
    removeEventListener() {}
    close() {}
  },
);

let batch: Batch;

const makeDay = () => show(<MakeDay />, { at: `/batches/${batch.id}/make`, route: '/batches/:batchId/make' });
const step = () => screen.getByTestId('step').dataset.step;

describe('make day', () => {
  beforeEach(async () => {
    batch = await newBatch();
  });

  it('begins only when it is told to, and then shows the first step', async () => {
    const { user } = await makeDay();
    await screen.findByText('Ready to make it?');
    expect((await batch.run()).state.status).toBe('planned');
    await user.click(screen.getByTestId('begin'));
    await waitFor(() => expect(step()).toBe('gear'));
  });

  it('tells first aid at every step, also before it is begun', async () => {
    const { user } = await makeDay();
    await user.click(await screen.findByTestId('first-aid'));
    const aid = await screen.findByRole('dialog');
    expect(aid.textContent).toContain('running water for 15 to 20 minutes');
    expect(aid.textContent).toContain('No vinegar on a burn');
  });

  it('looks back without changing anything, and returns to where the work is', async () => {
    await batch.upTo('melt');
    const { user } = await makeDay();
    await waitFor(() => expect(step()).toBe('melt'));
    await user.click(screen.getByRole('button', { name: '← Back' }));
    expect(step()).toBe('make-lye');
    expect(screen.queryByTestId('step-done')).toBeNull();
    await user.click(screen.getByRole('button', { name: /Where the work is/ }));
    expect(step()).toBe('melt');
    expect((await batch.run()).state.current).toBe('melt');
  });

  it('marks caustic steps in words as well as in colour', async () => {
    await batch.upTo('make-lye');
    await makeDay();
    expect(await screen.findByText(/^CAUSTIC/)).toBeTruthy();
  });

  it('sets a wrong entry aside with a reason and leads back to its weighing', async () => {
    const run = await batch.upTo('make-lye');
    const { user } = await makeDay();
    await user.click(await screen.findByRole('button', { name: /Record, correct/ }));
    const dialog = await screen.findByRole('dialog');
    const water = (await within(dialog).findAllByText(/^Water: /))[0];
    await user.click(within(water?.closest('li') as HTMLElement).getByRole('button', { name: 'wrong' }));
    expect(screen.getByTestId<HTMLButtonElement>('settle').disabled).toBe(true);
    await user.type(screen.getByTestId('reason'), 'Read off the wrong line.');
    // Of a weight it is asked whether it is in there.
    expect(screen.getByTestId<HTMLButtonElement>('settle').disabled).toBe(true);
    await user.click(screen.getByTestId('in-bowl-no'));
    await user.click(screen.getByTestId('settle'));
    expect(await within(dialog).findByText(/does not count: Read off the wrong line/)).toBeTruthy();
    expect((await batch.run()).state.current).toBe('weigh-water');
    // Nothing is wiped out.
    expect((await batch.run()).events).toBe(run.events + 1);
  });

  it('takes the true weight of what is in there, and asks for no second pour', async () => {
    const run = await batch.upTo('trace');
    const { user } = await makeDay();
    await user.click(await screen.findByRole('button', { name: /Record, correct/ }));
    const dialog = await screen.findByRole('dialog');
    const lye = (await within(dialog).findAllByText(/^NaOH: /))[0];
    await user.click(within(lye?.closest('li') as HTMLElement).getByRole('button', { name: 'wrong' }));
    await user.type(screen.getByTestId('reason'), 'The scale stood on the cable.');
    await user.click(screen.getByTestId('in-bowl-yes'));
    const target = run.state.targets_g['lye:naoh'] ?? 0;
    await user.type(screen.getByTestId('true-weight'), (target - 9).toFixed(1));
    await user.click(screen.getByTestId('settle'));
    expect(await within(dialog).findByText(/really .* The scale stood/)).toBeTruthy();
    const after = await batch.run();
    expect(after.state.current).toBe('trace');
    expect(after.state.captured_g['lye:naoh']).toBeCloseTo(target - 9, 1);
  });

  it('keeps the numbers to call beside first aid', async () => {
    const { user } = await makeDay();
    await user.click(await screen.findByTestId('first-aid'));
    await user.click(await screen.findByTestId('edit-numbers'));
    await user.clear(await screen.findByTestId('emergency-number'));
    await user.type(screen.getByTestId('emergency-number'), '112');
    await user.click(screen.getByTestId('save-numbers'));
    expect(await screen.findByRole('link', { name: '112' })).toBeTruthy();
  });

  it('is given up with a reason, which stays, and says what to do with the bowls', async () => {
    await batch.upTo('melt');
    const { user } = await makeDay();
    await user.click(await screen.findByRole('button', { name: /Record, correct/ }));
    await user.click(await screen.findByTestId('give-up'));
    await user.type(await screen.findByTestId('reason'), 'The milk scorched.');
    // What becomes of the oils in the bowl is said first.
    expect(screen.getByTestId<HTMLButtonElement>('settle').disabled).toBe(true);
    await user.click(screen.getByTestId('weighed-put-back'));
    await user.click(screen.getByTestId('settle'));
    expect(await screen.findByText('Given up')).toBeTruthy();
    expect(screen.getByText('The milk scorched.')).toBeTruthy();
    expect(screen.getByTestId('what-stands-there').textContent).toMatch(/Lye solution is in the jug/);
    // What was written down can still be read and corrected.
    expect(screen.getByRole('button', { name: 'Record, correct' })).toBeTruthy();
  });

  it('writes notes down while it is made, some for next time', async () => {
    const formula = await ownFormula('Bar with a note');
    batch = await newBatch('Bar with a note');
    await batch.upTo('melt');
    const { user, unmount } = await makeDay();
    await user.type(await screen.findByTestId('note'), 'Less lavender.');
    await user.click(screen.getByTestId('next-time'));
    await user.click(screen.getByTestId('add-note'));
    expect(await screen.findByText('Less lavender.')).toBeTruthy();
    unmount();
    const again = await newBatch('Bar with a note');
    const { container } = await show(<MakeDay />, { at: `/batches/${again.id}/make`, route: '/batches/:batchId/make' });
    await waitFor(() => expect(container.textContent).toContain('Next time, you said: Less lavender.'));
    expect(formula.formula.name).toBe('Bar with a note');
  });

  it('shows what was made beside what was planned when all is done', async () => {
    await batch.upTo('nothing');
    const { user } = await makeDay();
    await user.click(await screen.findByTestId('finish'));
    expect((await screen.findByTestId('waiting')).textContent).toMatch(/Unmould between .* and .*, an estimate/);
    const rows = screen.getAllByRole('row').map((row) => within(row).queryAllByRole('cell').map((cell) => cell.textContent));
    const superfat = rows.find(([name]) => name === 'Superfat of the whole');
    expect(superfat?.[1]).toBe(superfat?.[2]);
  });

  it('says why when there is nothing to make', async () => {
    batch = await newBatch('Hut guest bar', { moulds: [] });
    await makeDay();
    expect(await screen.findByText('This batch cannot be made yet')).toBeTruthy();
  });
});
