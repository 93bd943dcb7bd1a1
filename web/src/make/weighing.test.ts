import { describe, expect, it } from 'vitest';

import type { Run, Step } from '../api/types';
import { asRead, phasesOf, standingOf, weighingOf } from './weighing';

const step = {
  id: 'weigh-oil:0',
  phase: 'Weigh',
  kind: 'weigh',
  caustic: false,
  weigh: { item: 'oil:0', name: 'Olive', role: 'oil', target_g: 200, tolerance_g: 1, decimals: 1 },
} as Step;

function run(targets: Record<string, number>, captured: Record<string, number>, settled: string[] = []): Run {
  return { state: { targets_g: targets, captured_g: captured, settled, done: [], current: 'weigh-oil:0' } } as unknown as Run;
}

describe('weighingOf', () => {
  it('asks for the whole target at first', () => {
    expect(weighingOf(step, run({ 'oil:0': 200 }, {}))).toMatchObject({ toPour: 200, isTopUp: false });
  });

  it('asks for what is missing when the target has grown since', () => {
    const topUp = weighingOf(step, run({ 'oil:0': 212 }, { 'oil:0': 200 }));
    expect(topUp).toMatchObject({ toPour: 12, isTopUp: true });
  });

  it('weighs anew what was too much', () => {
    expect(weighingOf(step, run({ 'oil:0': 200 }, { 'oil:0': 230 }))).toMatchObject({ toPour: 200, isTopUp: false });
  });
});

describe('asRead', () => {
  const short = weighingOf(step, run({ 'oil:0': 200 }, { 'oil:0': 190 }));
  it('takes a reading that holds the first pour for the whole', () => {
    if (short === null) throw new Error('no weighing');
    expect(asRead(short, 199.8)).toMatchObject({ toPour: 200, isTopUp: false });
    expect(asRead(short, 9.8)).toMatchObject({ toPour: 10, isTopUp: true });
    expect(asRead(short, null)).toBe(short);
  });
});

describe('standingOf', () => {
  const weighing = weighingOf(step, run({ 'oil:0': 200 }, {}));
  it.each([
    [0, 'under'],
    [185, 'near'],
    [199.2, 'right'],
    [201, 'right'],
    [201.1, 'over'],
  ] as const)('%s g of 200 g is %s', (reading, standing) => {
    if (weighing === null) throw new Error('no weighing');
    expect(standingOf(reading, weighing)).toBe(standing);
  });
});

describe('phasesOf', () => {
  it('tells which part of the work is done, which is now, and which is caustic', () => {
    const lye = { ...step, id: 'weigh-lye:naoh', phase: 'Weigh the lye', caustic: true } as Step;
    const made = { state: { done: ['weigh-oil:0'], current: 'weigh-lye:naoh' } } as unknown as Run;
    expect(phasesOf([step, lye], made)).toEqual([
      { name: 'Weigh', caustic: false, state: 'done' },
      { name: 'Weigh the lye', caustic: true, state: 'now' },
    ]);
  });
});
