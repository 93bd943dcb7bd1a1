import { act, fireEvent, screen, waitFor, within } from '@testing-library/react';
import { beforeEach, describe, expect, it, onTestFinished } from 'vitest';

import { answered, api } from '../api/client';
import type { FormulaRecord, KeptFormulaReport } from '../api/types';
import { field, isFresh, isSaved, keptOf, numberIn, openBench } from '../testing/bench';
import { ownFormula } from '../testing/kitchen';
import { mend, silence, tellOtherwise } from '../testing/network';
import { retype, show } from '../testing/show';
import { Bench } from './Bench';

let record: FormulaRecord;

const path = () => ({ params: { path: { formula_id: record.id } } });
const bench = () => openBench(record);
const kept = () => keptOf(record);
const share = (oil: string) => field(`amount-${oil}`);
const lye = () => field('lye-to-weigh');
/** Coconut becomes 20 %, the server does not hear of it, and the screen is left. Nothing is saved until the network is mended. */
async function leaveUnsaved(): Promise<void> {
  const left = await bench();
  silence(1000, 'before', (request) => request.method === 'PUT');
  await retype(left.user, share('coconut'), '20');
  await waitFor(() => expect(screen.getByTestId('save-state').dataset.kind).toBe('offline'), { timeout: 5000 });
  left.unmount();
}

describe('the result that comes with the formula', () => {
  beforeEach(async () => {
    record = await ownFormula('Kept bar');
  });

  /** The server is made to say, of the formula as it keeps it, that 999 g of NaOH are to be weighed. */
  const falselyOf = (revision: (now: number) => number) =>
    tellOtherwise<KeptFormulaReport>(
      ({ url }) => /formulas\/\w+\/report/.test(url),
      (said) => ({
        ...said,
        revision: revision(said.revision),
        result: said.result && { ...said.result, weights: { ...said.result.weights, naoh: 999 } },
      }),
    );

  it('is shown with it', async () => {
    falselyOf((now) => now);
    await bench();
    expect(numberIn(lye())).toBe(999);
  });

  it('is not shown when it is of another revision', async () => {
    falselyOf((now) => now + 1);
    await bench();
    await isFresh();
    expect(numberIn(lye())).toBeLessThan(200);
  });

  it('is not shown of a draft that is not saved yet', async () => {
    await leaveUnsaved();
    falselyOf((now) => now);
    await bench();
    expect(Number(share('coconut').value)).toBe(20);
    // It does not sum to 100 yet.
    await waitFor(() => expect(screen.getByTestId('formula-state').dataset.freshness).toBe('stopped'));
    expect(lye().textContent).not.toContain('999');
  });
});

describe('what is not saved yet', () => {
  beforeEach(async () => {
    record = await ownFormula('Unsaved bar');
  });

  it('is there again after the screen is left while nothing answers, with its undo', async () => {
    await leaveUnsaved();
    mend();
    expect((await kept()).blend.lines.find((line) => line.oil === 'coconut')).toMatchObject({ value: 26 });
    await bench();
    expect(Number(share('coconut').value)).toBe(20);
    await isSaved();
    expect((await kept()).blend.lines.find((line) => line.oil === 'coconut')).toMatchObject({ value: 20 });
    fireEvent.keyDown(document.body, { key: 'z', ctrlKey: true });
    await waitFor(() => expect(Number(share('coconut').value)).toBe(26));
  });

  it('is asked about when someone else saved meanwhile', async () => {
    await leaveUnsaved();
    mend();
    const now = await answered(api.GET('/api/formulas/{formula_id}', path()));
    await answered(api.PUT('/api/formulas/{formula_id}', { ...path(), body: { revision: now.revision, formula: { ...now.formula, notes: 'Theirs.' } } }));
    const { user } = await bench();
    await screen.findByTestId('conflict-dialog');
    expect(Number(share('coconut').value)).toBe(20);
    await user.click(screen.getByTestId('take-theirs'));
    await isSaved();
    expect(Number(share('coconut').value)).toBe(26);
    expect((await kept()).notes).toBe('Theirs.');
  });

  it('that is undone in a field is the text of that field', async () => {
    const { user } = await bench();
    await retype(user, share('coconut'), '20');
    await user.keyboard('{Control>}z{/Control}');
    expect(Number(share('coconut').value)).toBe(20);
  });

  it('keeps the draft as a version when one goes back to another', async () => {
    const now = await answered(api.GET('/api/formulas/{formula_id}', path()));
    await answered(api.POST('/api/formulas/{formula_id}/versions', { ...path(), body: { revision: now.revision, note: 'First.' } }));
    const { user } = await bench();
    await retype(user, share('coconut'), '20');
    await isSaved();
    await user.click(screen.getByTestId('version-chip'));
    await user.click(await screen.findByRole('menuitem', { name: /^version 1/ }));
    await waitFor(() => expect(Number(share('coconut').value)).toBe(26));
    const versions = await answered(api.GET('/api/formulas/{formula_id}/versions', path()));
    expect(versions[0]?.number).toBe(2);
    expect(versions[0]?.formula.blend.lines.find((line) => line.oil === 'coconut')).toMatchObject({ value: 20 });
    fireEvent.keyDown(document.body, { key: 'z', ctrlKey: true });
    await waitFor(() => expect(Number(share('coconut').value)).toBe(20));
  });
});

describe('the blend', () => {
  beforeEach(async () => {
    record = await ownFormula('Bench test bar');
  });

  it('is calculated, and the lye follows every share', async () => {
    const { user } = await bench();
    const before = numberIn(lye());
    await retype(user, share('coconut'), '20');
    await retype(user, share('olive-refined'), '40');
    await isFresh();
    // Coconut takes more lye than olive oil.
    await waitFor(() => expect(numberIn(lye())).toBeLessThan(before));
    await isSaved();
    const lines = (await kept()).blend.lines;
    expect(lines.find((line) => line.oil === 'coconut')).toMatchObject({ value: 20 });
  });

  it('shows no lye of what is entered now while shares do not sum to 100', async () => {
    const { user } = await bench();
    await retype(user, share('coconut'), '90');
    await waitFor(() => expect(screen.getByTestId('formula-state').dataset.freshness).toBe('stopped'), { timeout: 5000 });
    expect(screen.getByTestId('share-sum').textContent).toMatch(/164/);
    expect((await screen.findByTestId('last-good')).textContent).toContain('not those of what is entered now');
  });

  it('trades shares at a seam by the arrow keys, half a point a step, ten steps with Shift', async () => {
    const { user } = await bench();
    const seam = screen.getByTestId('seam-0');
    const [first, second] = [Number(share('olive-refined').value), Number(share('palm').value)];
    fireEvent.keyDown(seam, { key: 'ArrowDown' });
    expect(Number(share('olive-refined').value)).toBe(first + 0.5);
    expect(Number(share('palm').value)).toBe(second - 0.5);
    fireEvent.keyDown(seam, { key: 'ArrowUp', shiftKey: true });
    expect(Number(share('olive-refined').value)).toBe(first - 4.5);
    expect(seam.getAttribute('aria-valuetext')).toContain('Olive, refined');
    await user.keyboard('{Control>}z{/Control}');
    expect(Number(share('olive-refined').value)).toBe(first);
  });

  it('takes on what was typed before the search for oils was there', async () => {
    const waiting: (() => void)[] = [];
    // jsdom knows no idle moments, so that everything is drawn at once.
    Object.assign(window, { requestIdleCallback: (draw: () => void) => waiting.push(draw), cancelIdleCallback: () => undefined });
    onTestFinished(() => ['requestIdleCallback', 'cancelIdleCallback'].forEach((name) => Reflect.deleteProperty(window, name)));
    const { user } = await show(<Bench />, { at: `/formulas/${record.id}`, route: '/formulas/:formulaId' });
    await screen.findByTestId('amount-castor');
    expect(screen.queryByTestId('add-oil')).toBeNull();
    await user.keyboard('acocoa butter 4');
    act(() => waiting.splice(0).forEach((draw) => draw()));
    await waitFor(() => expect(document.activeElement).toBe(screen.getByTestId('add-oil')));
    expect(field('add-oil').value).toBe('cocoa butter 4');
    await user.keyboard('{Enter}');
    expect((await screen.findByTestId<HTMLInputElement>('amount-cocoa')).value).toBe('4.0');
  });

  it('takes an oil with its share from the words “shea 5”', async () => {
    const { user } = await bench();
    await user.type(screen.getByTestId('add-oil'), 'cocoa butter 4');
    await user.keyboard('{Enter}');
    expect((await screen.findByTestId<HTMLInputElement>('amount-cocoa')).value).toBe('4.0');
  });

  it('is undone and redone, step by step', async () => {
    const { user } = await bench();
    await retype(user, share('castor'), '8');
    await user.tab();
    await user.keyboard('{Control>}z{/Control}');
    expect(share('castor').value).toBe('5.0');
    await user.keyboard('{Control>}{Shift>}z{/Shift}{/Control}');
    expect(share('castor').value).toBe('8.0');
  });

  it('keeps what cannot be read in its place, also after coming back', async () => {
    const { user, unmount } = await bench();
    await retype(user, share('castor'), 'five');
    await user.tab();
    await isSaved();
    unmount();
    await bench();
    await waitFor(() => expect(share('castor').value).toBe('five'));
    // The number that was there is not restored behind the maker's back.
    expect((await kept()).blend.lines.find((line) => line.oil === 'castor')).toMatchObject({ value: null });
  });

  it('goes on without the server, and saves when it is back', async () => {
    const { user } = await bench();
    silence(1000, 'before', (request) => request.method !== 'GET');
    await retype(user, share('castor'), '6');
    await waitFor(() => expect(screen.getByTestId('save-state').dataset.kind).toBe('offline'), { timeout: 5000 });
    mend();
    await waitFor(() => expect(screen.getByTestId('save-state').dataset.kind).toBe('saved'), { timeout: 8000 });
    expect((await kept()).blend.lines.find((line) => line.oil === 'castor')).toMatchObject({ value: 6 });
  });

  it('is kept as a version with a note', async () => {
    const { user } = await bench();
    await user.click(screen.getByTestId('version-chip'));
    await user.click(await screen.findByRole('menuitem', { name: /Keep/ }));
    const dialog = await screen.findByRole('dialog');
    await user.type(within(dialog).getByRole('textbox'), 'As first sold.');
    await user.click(within(dialog).getByRole('button', { name: /^Keep/ }));
    await waitFor(() => expect(screen.getByTestId('version-chip').textContent).toContain('version 1'));
    const [version] = await answered(api.GET('/api/formulas/{formula_id}/versions', path()));
    expect(version).toMatchObject({ number: 1, note: 'As first sold.' });
  });
});

describe('lye and water on the bench', () => {
  beforeEach(async () => {
    record = await ownFormula('Lye test bar');
  });

  it('three ways of saying the water move together', async () => {
    const { user } = await bench();
    const ratio = screen.getByTestId<HTMLInputElement>('water_to_lye');
    const before = Number(ratio.value);
    await retype(user, screen.getByTestId('lye_concentration_percent'), '40');
    await waitFor(() => expect(Number(ratio.value)).toBeCloseTo(1.5, 2));
    expect(before).toBeGreaterThan(1.5);
  });

  it('a purity that cannot be is refused, and what may have been meant is offered', async () => {
    const { user } = await bench();
    const purity = screen.getByRole<HTMLInputElement>('textbox', { name: /NaOH purity/ });
    await retype(user, purity, '0.99');
    await user.click(await screen.findByRole('button', { name: /^Take 99/ }, { timeout: 4000 }));
    await isFresh();
    expect(Number(purity.value)).toBe(99);
  });

  it('shows the explanation of the lye with its own numbers', async () => {
    const { user } = await bench();
    await user.click(lye());
    const explanation = await screen.findByTestId('explanation');
    await waitFor(() => expect(explanation.textContent).toMatch(/340\.0\sg × /));
    expect(explanation.textContent).toContain('0.71289');
  });

  it('superfat of nothing at all is watched or worse', async () => {
    const { user } = await bench();
    const superfat = screen.getByRole<HTMLInputElement>('textbox', { name: 'Superfat' });
    await retype(user, superfat, '0');
    await isFresh();
    await waitFor(() => expect(screen.getByTestId('superfat-strip').textContent).toMatch(/−\d/));
    expect(screen.getByTestId('formula-state').textContent).not.toContain('result complete');
  });
});
