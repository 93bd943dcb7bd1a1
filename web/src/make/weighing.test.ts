import { describe, expect, it } from 'vitest';

import type { DeviceReadings, Run, Step, WeighingNow } from '../api/types';
import { phasesOf, scaleStateOf, standingOf } from './weighing';

const step = {
  id: 'weigh-oil:0',
  phase: 'Weigh',
  kind: 'weigh',
  caustic: false,
  weigh: { item: 'oil:0', name: 'Olive', role: 'oil', target_g: 200, tolerance_g: 1, decimals: 1 },
} as Step;

type Scale = DeviceReadings['scale'];
const scale = (shown: Partial<Scale>): Scale => ({ state: 'steady', weight_g: 0, tare: null, resolution_g: 0.1, capacity_g: 5000, ...shown });

describe('standingOf', () => {
  it.each([
    [0, 'under'],
    [185, 'near'],
    [199.2, 'right'],
    [201, 'right'],
    [201.1, 'over'],
  ] as const)('%s g of 200 g is %s', (reading, standing) => {
    expect(standingOf(reading, 200, 1)).toBe(standing);
  });
});

describe('scaleStateOf', () => {
  const tared = { tare: 'mine', needs_tare: false } as WeighingNow;
  it('counts a reading only from the zero that was set for this weighing', () => {
    expect(scaleStateOf(scale({ tare: 'mine', weight_g: 80 }), tared)).toBe('ready');
    expect(scaleStateOf(scale({ tare: null, weight_g: 80 }), tared)).toBe('lost');
    expect(scaleStateOf(scale({ tare: 'of another batch', weight_g: 80 }), tared)).toBe('lost');
    expect(scaleStateOf(scale({ tare: 'mine' }), { tare: null, needs_tare: true } as WeighingNow)).toBe('untared');
  });

  it('says that a scale is gone before it says what it lost', () => {
    expect(scaleStateOf(undefined, tared)).toBe('silent');
    expect(scaleStateOf(scale({ tare: null, state: 'unplugged', weight_g: null }), tared)).toBe('unplugged');
  });
});

describe('phasesOf', () => {
  it('tells which part of the work is done, which is now, and which is caustic', () => {
    const lye = { ...step, id: 'weigh-lye:naoh', phase: 'Weigh the lye', caustic: true } as Step;
    const run = {
      prepared: { steps: [step, lye] },
      phases: ['Weigh', 'Weigh the lye'],
      state: { done: ['weigh-oil:0'], current: 'weigh-lye:naoh' },
    } as unknown as Run;
    expect(phasesOf(run)).toEqual([
      { name: 'Weigh', caustic: false, state: 'done' },
      { name: 'Weigh the lye', caustic: true, state: 'now' },
    ]);
  });
});
