import { screen, waitFor, within } from '@testing-library/react';
import { useState } from 'react';
import { describe, expect, it } from 'vitest';

import type { Formula } from '../api/types';
import { demoFormula } from '../testing/kitchen';
import { retype, show } from '../testing/show';
import { Limits } from './Limits';
import type { Asked } from './question';
import { startOf } from './useSolve';

let asked: Asked;

interface AskingProps {
  formula: Formula;
  start: Asked;
  onAsked: (asked: Asked) => void;
}

function Asking({ formula, start, onAsked }: AskingProps) {
  const [now, setNow] = useState(start);
  const change = (patch: Partial<Asked>) => {
    const next = { ...now, ...patch };
    setNow(next);
    onAsked(next);
  };
  return <Limits asked={now} formula={formula} onChange={change} />;
}

async function limits(change: Partial<Formula> = {}) {
  const { formula: demo } = await demoFormula('Hut guest bar');
  const formula = { ...demo, ...change };
  const start = await startOf(formula);
  asked = { ...start, targets: [] };
  return show(<Asking formula={formula} start={asked} onAsked={(next) => (asked = next)} />);
}

const choose = (label: string) => screen.getByRole('combobox', { name: label });

describe('what a blend may be made of', () => {
  it('is the usual oils, all, or those of the formula', async () => {
    const { user } = await limits();
    expect(asked).toMatchObject({ pool: null, with_specialties: false });
    await user.selectOptions(screen.getByTestId('solve-pool'), 'wide');
    expect(asked).toMatchObject({ pool: null, with_specialties: true });
    await user.selectOptions(screen.getByTestId('solve-pool'), 'own');
    expect(asked.pool).toContain('palm');
    expect(asked.with_specialties).toBe(false);
    await user.selectOptions(screen.getByTestId('solve-pool'), 'usual');
    expect(asked.pool).toBeNull();
  });

  it.each([
    ['Oils at most', '3', { most_oils: 3 }],
    ['Steps of', '0.5', { step_percent: 0.5 }],
    ['At least, each', '10', { least_share_percent: 10 }],
    ['Then prefer', 'cheaper', { prefer: 'cheaper' }],
  ])('%s is chosen', async (label, value, expected) => {
    const { user } = await limits();
    await user.selectOptions(choose(label), value);
    expect(asked).toMatchObject(expected);
  });

  it('limits groups, and lets them go again', async () => {
    const { user } = await limits();
    await user.selectOptions(choose('Butters at most'), '20');
    await user.selectOptions(choose('Animal at most'), '0');
    expect(asked.groups).toEqual([
      { group: 'butters', minimum_percent: 0, maximum_percent: 20 },
      { group: 'animal', minimum_percent: 0, maximum_percent: 0 },
    ]);
    await user.selectOptions(choose('Butters at most'), '100');
    expect(asked.groups.map((limit) => limit.group)).toEqual(['animal']);
  });

  it('leaves out by tags; what the formula itself must do without cannot be let in here', async () => {
    const { user } = await limits({ free_of: ['palm'] });
    const chip = (word: string) => screen.getByRole<HTMLButtonElement>('button', { name: `no ${word}` });
    expect(chip('palm').disabled).toBe(true);
    expect(chip('palm').getAttribute('aria-pressed')).toBe('true');
    await user.click(chip('tree nuts'));
    expect(asked.free_of).toEqual(['tree nuts']);
    await user.click(chip('tree nuts'));
    expect(asked.free_of).toEqual([]);
  });
});

describe('limits of single oils', () => {
  async function ofShea() {
    const drawn = await limits();
    await drawn.user.type(screen.getByTestId('limit-oil'), 'shea');
    await drawn.user.keyboard('{Enter}');
    const row = within(await screen.findByRole('list', { name: 'Limits of single oils' }));
    return { ...drawn, row };
  }
  const edge = (which: string) => screen.getByTestId<HTMLInputElement>(`shea-${which}`);

  it('are typed as shares, and what is left of it as a weight', async () => {
    const { user } = await ofShea();
    await retype(user, edge('minimum_percent'), '4');
    await retype(user, edge('maximum_percent'), '12,5');
    await retype(user, edge('available'), '310');
    expect(asked.limits).toEqual([{ oil: 'shea', minimum_percent: 4, maximum_percent: 12.5 }]);
    expect(asked.available_g).toEqual({ shea: 310 });
    await user.clear(edge('available'));
    expect(asked.available_g).toEqual({});
  });

  it('an emptied edge is open again', async () => {
    const { user } = await ofShea();
    await user.clear(edge('minimum_percent'));
    await user.clear(edge('maximum_percent'));
    expect(edge('maximum_percent').value).toBe('');
    expect(asked.limits).toEqual([{ oil: 'shea', minimum_percent: 0, maximum_percent: 100 }]);
    await user.tab();
    expect(edge('maximum_percent').value).toBe('100');
  });

  it('keep what cannot be read, and say so', async () => {
    const { user } = await ofShea();
    await retype(user, edge('minimum_percent'), 'a little');
    await user.tab();
    expect(edge('minimum_percent').value).toBe('a little');
    expect(screen.getByText(/“a little” is not a number/)).toBeTruthy();
  });

  it('take ounces from a maker who weighs in them', async () => {
    localStorage.setItem('sapolin.weight-unit', JSON.stringify('oz'));
    const { user } = await ofShea();
    await retype(user, edge('available'), '11');
    await waitFor(() => expect(asked.available_g.shea).toBeCloseTo(11 * 28.349523125, 3));
    expect(screen.getByRole('textbox', { name: 'Shea butter, oz left' })).toBeTruthy();
    await retype(user, edge('available'), '300 g');
    await waitFor(() => expect(asked.available_g.shea).toBeCloseTo(300, 3));
  });

  it('are taken off', async () => {
    const { user, row } = await ofShea();
    await user.click(row.getByRole('button', { name: 'No limit for Shea butter' }));
    expect(asked.limits).toEqual([]);
  });
});
