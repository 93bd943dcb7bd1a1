import { screen, waitFor } from '@testing-library/react';
import { describe, expect, it, vi } from 'vitest';

import { answered, api } from '../api/client';
import type { Preparation, PreparationRecord } from '../api/types';
import { newKey } from '../api/newKey';
import type { RunEvent } from '../make/useRun';
import { remember } from '../testing/made';
import { retype, show } from '../testing/show';
import { PreparationList } from './PreparationList';
import { PreparationMake } from './PreparationMake';
import { PreparationPlan } from './PreparationPlan';

/** The stream of the scale, with nothing on it. */
vi.stubGlobal('EventSource', class { close() {} });

async function kept(kind: Preparation['kind'], changes: object = {}): Promise<PreparationRecord> {
  const starts = await answered(api.GET('/api/preparations/starts'));
  const record = await answered(api.POST('/api/preparations', { body: { ...starts.find((one) => one.kind === kind)?.plan, ...changes } as Preparation }));
  remember(`/api/preparations/${record.id}`);
  return record;
}

const open = (record: PreparationRecord) => show(<PreparationPlan />, { at: `/preparations/${record.id}`, route: '/preparations/:preparationId' });
const make = (record: PreparationRecord) => show(<PreparationMake />, { at: `/preparations/${record.id}/make`, route: '/preparations/:preparationId/make' });
const now = async (record: PreparationRecord) => (await answered(api.GET('/api/preparations/{preparation_id}', { params: { path: { preparation_id: record.id } } }))).plan;

/** Do everything of a dilution as planned before the test of its thickness. */
async function thinned(record: PreparationRecord): Promise<void> {
  const params = { path: { preparation_id: record.id } };
  const add = (event: RunEvent) => answered(api.POST('/api/preparations/{preparation_id}/events', { params, body: { key: newKey(), after_seq: null, event } }));
  const { prepared } = await add({ kind: 'started', targets_g: {} });
  for (const step of prepared.steps) {
    if (step.id === 'dilute-thickness') return;
    if (step.weigh) await add({ kind: 'captured', item: step.weigh.item, weight_g: step.weigh.target_g, source: 'typed', tared: true, tare: '', adds: false, sure: false });
    if (step.test) await add({ kind: 'tested', test: step.test, outcome: step.outcomes?.[0]?.id ?? '', ph: null, passed: false });
    await add({ kind: 'step_done', step: step.id, confirmed: step.checks });
  }
}

describe('the list', () => {
  it('has the pastes there are, and starts what can be prepared', async () => {
    const { user } = await show(<PreparationList />, { at: '/preparations' });
    expect((await screen.findByText('Coconut dish paste')).closest('li')?.textContent).toContain('% soap');
    await user.click(await screen.findByTestId('start-rebatch'));
    const entries = await waitFor(async () => {
      const found = await answered(api.GET('/api/preparations', { params: { query: {} } }));
      expect(found[0]?.record.plan.kind).toBe('rebatch');
      return found;
    });
    remember(`/api/preparations/${entries[0]?.record.id ?? ''}`);
  });

  it('begins with the paste there is', async () => {
    const pastes = await answered(api.GET('/api/pastes'));
    const { user } = await show(<PreparationList />, { at: '/preparations' });
    await user.click(await screen.findByTestId('start-dilution'));
    const begun = await waitFor(async () => {
      const [first] = await answered(api.GET('/api/preparations', { params: { query: {} } }));
      expect(first?.record.plan.kind).toBe('dilution');
      return first?.record;
    });
    remember(`/api/preparations/${begun?.id ?? ''}`);
    expect(begun?.plan).toMatchObject({ pastes: [{ batch_id: pastes[0]?.batch_id }] });
  });
});

describe('a dilution', () => {
  it('asks calmly for what is missing, then weighs all of it', async () => {
    const record = await kept('dilution');
    const { user } = await open(record);
    expect(await screen.findByText(/The soap in the bottle is not entered yet/)).toBeTruthy();
    expect(screen.getByTestId<HTMLButtonElement>('to-make').disabled).toBe(true);
    await retype(user, screen.getByTestId('soap_percent'), '20');
    await retype(user, screen.getByTestId('bottles'), '4');
    await retype(user, screen.getByTestId('bottle_ml'), '200');
    const weights = await screen.findByTestId('weights');
    // 4 × 200 mL at 1.022 g/mL.
    await waitFor(() => expect(weights.textContent).toMatch(/Together817\.6/));
    expect(screen.getByTestId('readiness').textContent).toContain('No preservative');
    await waitFor(async () => expect(await now(record)).toMatchObject({ soap_percent: 20, bottles: 4, bottle_ml: 200 }));
    expect(screen.getByTestId<HTMLButtonElement>('to-make').disabled).toBe(false);
  });

  it('keeps its last name until it is given a new one', async () => {
    const record = await kept('dilution', { name: 'Hand soap' });
    const { user } = await open(record);
    const name = await screen.findByTestId<HTMLInputElement>('preparation-name');
    await user.clear(name);
    expect(name.value).toBe('');
    expect(screen.getByRole('alert').textContent).toContain('It needs a name');
    await user.tab();
    expect([name.value, screen.queryByRole('alert')]).toEqual(['Hand soap', null]);
    await retype(user, name, 'Bath soap');
    await waitFor(async () => expect((await now(record)).name).toBe('Bath soap'));
  });

  it('is stopped by a preservative that does not work in soap', async () => {
    const record = await kept('dilution', { soap_percent: 20, bottles: 4, bottle_ml: 200 });
    const { user } = await open(record);
    await screen.findByTestId('weights');
    await user.selectOptions(await screen.findByTestId('preservative'), 'benzoate-sorbate');
    await waitFor(() => expect(screen.getByTestId('readiness').textContent).toContain('works from pH 2 to 5.5'));
    expect(screen.getByTestId<HTMLButtonElement>('to-make').disabled).toBe(true);
  });

  it('mixes pastes to the optimum, and undoes it', async () => {
    const record = await kept('dilution', { soap_percent: 20, bottles: 4, bottle_ml: 200, pastes: [] });
    const { user } = await open(record);
    await user.click(await screen.findByTestId('mix-liquid-soap'));
    await screen.findByText(/Proven optimal/);
    await waitFor(async () => expect(((await now(record)) as { pastes: unknown[] }).pastes.length).toBeGreaterThan(0));
    await user.click(screen.getByRole('button', { name: 'Undo' }));
    await waitFor(async () => expect(((await now(record)) as { pastes: unknown[] }).pastes).toEqual([]));
  });

  it('is begun, weighed by typing, and kept as it is when it is over', async () => {
    const record = await kept('dilution', { soap_percent: 20, bottles: 4, bottle_ml: 200 });
    const { user } = await make(record);
    await user.click(await screen.findByTestId('begin'));
    for (const box of await screen.findAllByRole('checkbox')) await user.click(box);
    await user.click(screen.getByTestId('step-done'));
    await user.click(await screen.findByTestId('type-weight'));
    await user.type(await screen.findByTestId('typed-weight'), '300');
    await user.click(screen.getByTestId('take-weight'));
    await user.click(await screen.findByTestId('keep-as-it-is'));
    await waitFor(() => expect(screen.getByTestId('step').dataset.step).toBe('weigh-water:first'));
  });
});

describe('a salt test', () => {
  it('begins without brine, offers a spoon more each time, and tells where it is thickest', async () => {
    const record = await kept('dilution', { soap_percent: 20, bottles: 4, bottle_ml: 200 });
    await thinned(record);
    const { user } = await make(record);
    await user.click(await screen.findByText(/^Salt test/));
    const shown = (name: string) => Number(screen.getByTestId<HTMLInputElement>(name).value);
    expect([shown('sample'), shown('brine')]).toEqual([100, 0]);
    await retype(user, screen.getByTestId('sample'), '50');
    for (const [brine, seconds] of [[0, '3'], [0.5, '11'], [1, '11'], [1.5, '3']] as const) {
      await waitFor(() => expect([shown('sample'), shown('brine')]).toEqual([50, brine]));
      expect(screen.getByTestId<HTMLButtonElement>('note-salt').disabled).toBe(true);
      await user.type(screen.getByTestId('seconds'), seconds);
      await user.click(screen.getByTestId('note-salt'));
    }
    // As long at 0.5 g as at 1 g, and at 0 as at 1.5: thickest in the middle, at 0.75 g in 50 g.
    await waitFor(() => expect(screen.getByTestId('salt-says').textContent).toMatch(/Thickest at 1\.5\s% brine/));
    await retype(user, screen.getByTestId('brine'), '60');
    await user.type(screen.getByTestId('seconds'), '2');
    await user.click(screen.getByTestId('note-salt'));
    expect((await screen.findByRole('alert')).textContent).toContain('no more brine than sample');
    expect(shown('brine')).toBe(60);
  });
});

describe('what else is prepared', () => {
  it('rebatching asks for the soap, and cooks what zaps', async () => {
    const record = await kept('rebatch');
    const { user } = await open(record);
    await retype(user, await screen.findByTestId('soap_g'), '500');
    await user.click(screen.getByTestId('it-zaps'));
    await waitFor(() => expect(screen.getByTestId('weights').textContent).toContain('Oil15.0'));
  });

  it('master lye is never dissolved without its purity', async () => {
    const record = await kept('master_lye');
    const { user } = await open(record);
    await retype(user, await screen.findByTestId('lye_g'), '500');
    expect(await screen.findByText(/NaOH purity.* is not entered yet|purity.* is not entered/i)).toBeTruthy();
    await retype(user, screen.getByTestId('purity_percent'), '99');
    await waitFor(() => expect(screen.getByTestId('weights').textContent).toContain('NaOH500.0'));
  });

  it('a master blend sums to 100', async () => {
    const record = await kept('master_blend', { total_g: 1000, parts: [{ oil: 'coconut', share_percent: 40 }, { oil: 'olive-refined', share_percent: 50 }] });
    const { user } = await open(record);
    expect(await screen.findByText(/sum to 90/)).toBeTruthy();
    await retype(user, screen.getByTestId('parts[1].share_percent'), '60');
    await waitFor(() => expect(screen.getByTestId('weights').textContent).toContain('Coconut400.0'));
  });
});
