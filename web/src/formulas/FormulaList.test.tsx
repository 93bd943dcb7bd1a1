import { screen, waitFor, within } from '@testing-library/react';
import { beforeEach, describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { ownFormula } from '../testing/kitchen';
import { mend, silence } from '../testing/network';
import { address, show } from '../testing/show';
import { FormulaList } from './FormulaList';

const list = () => show(<FormulaList />, { at: '/', route: '/' });
const row = (name: string) => screen.getByText(name).closest('li') as HTMLElement;
const file = (content: string) => new File([content], 'formula.json', { type: 'application/json' });

describe('the formulas', () => {
  let name: string;
  beforeEach(async () => {
    name = `Listed bar ${crypto.randomUUID().slice(0, 8)}`;
    await ownFormula(name);
  });

  it('are found by name and by their oils', async () => {
    const { user } = await list();
    await screen.findByText(name);
    await user.type(screen.getByTestId('search'), name.slice(-8));
    await waitFor(() => expect(screen.getAllByRole('listitem')).toHaveLength(1));
    await user.clear(screen.getByTestId('search'));
    await user.type(screen.getByTestId('search'), 'lard');
    await waitFor(() => expect(screen.queryByText(name)).toBeNull());
    expect(screen.getByRole('link', { name: 'Upper hut milk bar' })).toBeTruthy();
  });

  it('say so when nothing is found, and what to do', async () => {
    const { user } = await list();
    await user.type(await screen.findByTestId('search'), 'no such');
    expect(await screen.findByText(/no such/)).toBeTruthy();
    expect(screen.queryAllByRole('listitem')).toHaveLength(0);
  });

  it('are copied', async () => {
    const { user } = await list();
    await screen.findByText(name);
    await user.click(within(row(name)).getByRole('button', { name: `More for ${name}` }));
    await user.click(await screen.findByRole('menuitem', { name: 'Duplicate' }));
    expect(await screen.findByText(`${name} (copy)`)).toBeTruthy();
  });

  it('are not said to be archived when they are not', async () => {
    const { user } = await list();
    const more = (await screen.findAllByRole('button', { name: /^More for / }))[0] as HTMLElement;
    await user.click(more);
    silence(5, 'before', (request) => request.method === 'DELETE');
    await user.click(await screen.findByRole('menuitem', { name: 'Archive' }));
    expect(await screen.findByText(/does not answer/)).toBeTruthy();
    expect(screen.queryByText(/is archived/)).toBeNull();
    mend();
  });

  it('are archived, restored at once, or later', async () => {
    const { user } = await list();
    await screen.findByText(name);
    const archive = async () => {
      await user.click(within(row(name)).getByRole('button', { name: `More for ${name}` }));
      await user.click(await screen.findByRole('menuitem', { name: 'Archive' }));
      await screen.findByText(`“${name}” is archived.`, { exact: false });
    };
    await archive();
    await user.click(screen.getByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(row(name)).toBeTruthy());
    await archive();
    await waitFor(() => expect(screen.queryByRole('link', { name })).toBeNull());
    await user.selectOptions(screen.getByLabelText('Which'), 'archived');
    await user.click(within(await waitFor(() => row(name))).getByRole('button', { name: 'Restore' }));
    await user.selectOptions(screen.getByLabelText('Which'), 'kept');
    expect(await screen.findByRole('link', { name })).toBeTruthy();
  });

  it('are read from a file as they were written', async () => {
    const written = await answered(api.GET('/api/formulas', { params: { query: { search: name } } }));
    const document = await fetch(`/api/formulas/${written.formulas[0]?.id}/document`).then((answer) => answer.text());
    const { user, container } = await list();
    await user.upload(container.querySelector('input[type=file]') as HTMLInputElement, file(document));
    await waitFor(() => expect(address()).toMatch(/^\/formulas\//));
    const read = await answered(
      api.GET('/api/formulas/{formula_id}', { params: { path: { formula_id: address().split('/').at(-1) ?? '' } } }),
    );
    expect(read.formula.blend.lines).toHaveLength(5);
  });

  it.each([
    ['not JSON', 'oils: olive'],
    ['of another kind', '{"name": 3}'],
  ])('a file that is %s is refused in words', async (_, content) => {
    const { user, container } = await list();
    await screen.findByText(name);
    await user.upload(container.querySelector('input[type=file]') as HTMLInputElement, file(content));
    const notice = await screen.findByRole('alert');
    expect((notice.textContent ?? '').length).toBeGreaterThan(20);
    expect(address()).toBe('/');
  });

  it('a new one opens on the bench', async () => {
    const { user } = await list();
    await user.click(await screen.findByTestId('new-formula'));
    await waitFor(() => expect(address()).toMatch(/^\/formulas\/\w{32}$/));
  });
});

describe('a recipe from paper', () => {
  it('is read line by line, and every doubt is the maker’s to settle', async () => {
    const { user } = await list();
    await user.click(await screen.findByTestId('read-recipe'));
    await user.type(screen.getByTestId('recipe-name'), 'Aunt’s bar');
    await user.click(screen.getByTestId('recipe-text'));
    await user.paste('coconut oil 300 g\nolive oil 600 g\nKOH 90 % 130 g\nsuperfat 6 %\nlove and patience\nmilk 200 g\n1.250 g castor');
    const lines = await screen.findByTestId('recipe-lines');
    expect(within(lines).getByText('Coconut', { selector: 'b' })).toBeTruthy();
    expect(within(lines).getByText('KOH: calculated anew, kept in the notes')).toBeTruthy();
    expect(within(lines).getByText(/can be read two ways/)).toBeTruthy();
    expect(within(lines).getByText(/Not a fat that Sapolin knows/)).toBeTruthy();
    const make = screen.getByTestId<HTMLButtonElement>('recipe-make');
    expect(make.disabled).toBe(true);
    await user.selectOptions(screen.getByTestId('recipe-oil-1'), 'olive-pomace');
    await user.selectOptions(screen.getByTestId('recipe-oil-5'), 'keep it as a note');
    expect(make.disabled).toBe(true);
    await user.selectOptions(screen.getByTestId('recipe-oil-6'), 'cross it out');
    await waitFor(() => expect(make.disabled).toBe(false));
    await user.click(make);
    await waitFor(() => expect(address()).toMatch(/formulas\//));
    const id = address().split('/').pop() ?? '';
    const { formula } = await answered(api.GET('/api/formulas/{formula_id}', { params: { path: { formula_id: id } } }));
    expect(formula.name).toBe('Aunt’s bar');
    expect(formula.superfat_percent).toBe(6);
    expect(formula.lye.koh).toMatchObject({ value: 100, purity_percent: null });
    expect(formula.notes).toBe('KOH 90 % 130 g\nlove and patience\nmilk 200 g');
    expect(formula.blend.lines.map((line) => [line.oil, line.value])).toEqual([['coconut', 300], ['olive-pomace', 600]]);
  });
});
