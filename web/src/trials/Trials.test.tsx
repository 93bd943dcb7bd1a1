import { screen, waitFor, within } from '@testing-library/react';
import { describe, expect, it, vi } from 'vitest';

import { answered, api } from '../api/client';
import { retype, show } from '../testing/show';
import { Learning } from './Learning';
import { NewTrial } from './NewTrial';
import { Tests } from './Tests';
import { Trial } from './Trial';
import { Comparison } from './Comparison';
import { demoFormula } from '../testing/kitchen';

/** The stream of the scale, with nothing on it. */
vi.stubGlobal('EventSource', class { close() {} });

async function idOf(code: string): Promise<string> {
  const { batches } = await answered(api.GET('/api/batches', { params: { query: { search: code } } }));
  const found = batches.find((one) => one.code === code);
  if (found === undefined) throw new Error(`The demo has no ${code}.`);
  return found.id;
}

const openTests = async (code: string) => {
  localStorage.clear();
  const id = await idOf(code);
  return { id, ...(await show(<Tests />, { at: `/batches/${id}/tests`, route: '/batches/:batchId/tests' })) };
};
const recordOf = async (id: string) => (await answered(api.GET('/api/batches/{batch_id}/cure', { params: { path: { batch_id: id } } }))).events;

describe('the tests of a batch', () => {
  it('records a whole sheet with how it was judged, and strikes it again', async () => {
    const { id, user } = await openTests('B-093');
    await user.click(await screen.findByText('Whole sheet'));
    await user.click(within(screen.getByTestId('criterion-density')).getByText('creamy'));
    await retype(user, screen.getByTestId('measure-wear_g'), '8,5');
    await user.click(screen.getByText(/^How: by hand/));
    await user.click(screen.getByText('cloth'));
    await user.click(screen.getByText('second wetting'));
    await user.click(screen.getByText('soft', { selector: '[class*=conditions] *' }));
    await user.click(screen.getByTestId('keep-sheet'));
    await screen.findByTestId('criterion-skin_hour');
    const last = (await recordOf(id)).at(-1);
    expect(last?.event).toMatchObject({ kind: 'judged', tester: 'Ilmo', scores: { density: 4 }, measures: { wear_g: 8.5 }, way: 'cloth', wetting: 'second', water: 'soft' });
    await user.click((await screen.findAllByRole('button', { name: /^Strike the sheet of Ilmo/ }))[0] as HTMLElement);
    await user.type(await screen.findByTestId('sheet-reason'), 'the other bar');
    await user.click(screen.getByTestId('strike-sheet'));
    await waitFor(async () => expect((await recordOf(id)).at(-1)?.event).toMatchObject({ kind: 'struck', seq: last?.seq }));
  });

  it('says what a measure cannot be, and keeps what was entered', async () => {
    const { id, user } = await openTests('B-093');
    const before = (await recordOf(id)).length;
    await user.click(await screen.findByText('Whole sheet'));
    await retype(user, screen.getByTestId('measure-press_mm'), '95');
    await user.click(screen.getByTestId('keep-sheet'));
    expect((await screen.findByTestId('asked')).textContent).toContain('Dent under 1 kg cannot be 95');
    expect(screen.getByTestId<HTMLInputElement>('measure-press_mm').value).toBe('95');
    expect((await recordOf(id)).length).toBe(before);
  });

  it('takes a chosen word back when it is touched again', async () => {
    const { user } = await openTests('B-093');
    const word = within(await screen.findByTestId('criterion-bubbles')).getByRole('radio', { name: 'many' });
    await user.click(word);
    expect(screen.getByTestId('keep-sheet').hasAttribute('disabled')).toBe(false);
    await user.click(word);
    expect(screen.getByTestId('keep-sheet').textContent).toBe('Choose a word');
  });

  it('lets nobody judge a batch that failed its test', async () => {
    await openTests('B-094');
    expect((await screen.findByText(/Nobody washes with a bar/)).textContent).toContain('stage Cure');
    expect(screen.queryByTestId('keep-sheet')).toBeNull();
  });

  it('puts something of one’s own on the sheet', async () => {
    const { user } = await openTests('B-091');
    await user.click(await screen.findByText('Whole sheet'));
    await user.click(screen.getByTestId('own-criterion'));
    await user.type(await screen.findByTestId('own-name'), 'Swirl');
    for (const [i, word] of ['none', 'a hint', 'lines', 'clear', 'bold'].entries()) await user.type(screen.getByTestId(`own-word-${i + 1}`), word);
    await user.click(screen.getByTestId('add-criterion'));
    const swirl = await screen.findByText('Swirl');
    await user.click(within(swirl.closest('fieldset') as HTMLElement).getByText('bold'));
    const own = (await answered(api.GET('/api/criteria'))).find((one) => one.name === 'Swirl');
    const { response } = await api.DELETE('/api/criteria/{criterion_id}', { params: { path: { criterion_id: own?.id ?? '' } } });
    expect(response.status).toBe(204);
  });
});

describe('trials and comparisons', () => {
  it('draws up a design, and says why one cannot be', async () => {
    const record = await demoFormula('Hut guest bar');
    const { user } = await show(<NewTrial formulaId={record.id} formula={record.formula} />);
    await user.click(await screen.findByText('Three to five oils'));
    for (const oil of ['Olive, refined', 'Palm', 'Coconut']) await user.click(screen.getByRole('checkbox', { name: new RegExp(`^${oil}`) }));
    expect((await screen.findByTestId('drawn')).querySelectorAll('li')).toHaveLength(4);
    await retype(user, screen.getByLabelText(/^Steps of/), '7');
    expect((await screen.findByTestId('asked')).textContent).toContain('no whole number of steps of 7');
  });

  it('tells a trial of the demo by its picture, in words, and what to make next', async () => {
    const [trial] = (await answered(api.GET('/api/trials'))).filter((one) => one.name === 'How much castor?');
    await show(<Trial />, { at: `/trials/${trial?.id}`, route: '/trials/:trialId' });
    expect((await screen.findByTestId('next-batch')).textContent).toContain('castor 5 % is enough');
    expect(screen.getByRole('img', { name: /castor 2 %: 1\.9/ })).toBeTruthy();
  });

  it('tells who was who once all is judged', async () => {
    const done = (await answered(api.GET('/api/comparisons'))).find((one) => one.is_done);
    await show(<Comparison />, { at: `/comparisons/${done?.id}`, route: '/comparisons/:comparisonId' });
    expect((await screen.findByTestId('verdict')).textContent).toMatch(/clearly preferred: 10 to 1/);
  });
});

describe('what the bars say', () => {
  it('shows every rule with its batches, and can be switched off', async () => {
    const { user } = await show(<Learning />);
    const topics = within(await screen.findByTestId('topics'));
    expect(topics.getAllByRole('term').length).toBeGreaterThan(10);
    expect(screen.getByTestId('held').textContent).toMatch(/\d+ of \d+ predictions held/);
    const learns = screen.getByTestId('learns');
    const isKept = (value: boolean) => waitFor(async () => expect((await answered(api.GET('/api/workshop'))).learns).toBe(value));
    for (let press = 0; press < 3; press += 1) await user.click(learns);
    await isKept(false);
    await user.click(learns);
    await isKept(true);
    expect(screen.queryByRole('alert')).toBeNull();
  });
});
