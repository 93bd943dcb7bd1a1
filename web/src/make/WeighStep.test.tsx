import { act, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';

import type { DeviceReadings } from '../api/types';
import { devicesShowing, MakingRoom, newBatch, type Batch } from '../testing/kitchen';
import { show } from '../testing/show';
import { WeighStep } from './WeighStep';

let batch: Batch;
let target: number;
let item: string;
/** Let the devices show something else. */
let play: (devices: DeviceReadings | null) => void;

/** The scale as it shows a weight from the zero that was set for this weighing. */
let zero: string | null = null;
const showing = (scale: Parameters<typeof devicesShowing>[0] = {}) => devicesShowing({ tare: zero, ...scale });
/** Set the scale to zero for the item, as the button does. */
async function tare() {
  const run = await batch.tare(item);
  zero = run.state.tare?.tare ?? null;
}

async function weigh(devices: DeviceReadings | null) {
  return show(
    <MakingRoom batch={batch} devices={devices}>
      {(run, show) => {
        play = show;
        const step = run.prepared.steps.find((one) => one.weigh?.item === item);
        return (
          <>
            {step && <WeighStep step={step} isCurrent={run.state.current === step.id} />}
            <span data-testid="current">{run.state.current}</span>
            {[1, 1.1].map((component) => (
              <button key={component} type="button" onClick={() => play(showing({ weight_g: Number((component * target).toFixed(1)) }))}>
                pour {component}
              </button>
            ))}
          </>
        );
      }}
    </MakingRoom>,
  );
}

const current = () => screen.getByTestId('current').textContent;

const BARE: DeviceReadings = { scale: null, thermometer: null, is_simulated: false };

describe('without a scale', () => {
  beforeEach(async () => {
    batch = await newBatch();
  });
  afterEach(() => localStorage.removeItem('sapolin.has-scale'));

  it('is typed, or done as asked in one tap, and shows no reading', async () => {
    const run = await batch.upTo('weigh-oil:0');
    item = 'oil:0';
    await weigh(BARE);
    expect(await screen.findByTestId('typed-weight')).toBeTruthy();
    expect(screen.queryByTestId('tare')).toBeNull();
    expect(screen.queryByTestId('type-weight')).toBeNull();
    expect(screen.getByTestId('live-weight').textContent).toMatch(/^– – –/);
    // Tapped twice, it is recorded once.
    const asked = screen.getByTestId('as-asked');
    act(() => {
      asked.click();
      asked.click();
    });
    await waitFor(() => expect(current()).not.toBe('weigh-oil:0'));
    const after = await batch.run();
    expect(after.state.captured_g['oil:0']).toBe(run.state.targets_g['oil:0']);
    expect(after.events).toBe(run.events + 2);
  });

  it('never offers lye as asked', async () => {
    await batch.upTo('weigh-lye:naoh');
    item = 'lye:naoh';
    await weigh(BARE);
    expect(await screen.findByTestId('typed-weight')).toBeTruthy();
    expect(screen.queryByTestId('as-asked')).toBeNull();
  });
});

describe('weighing an oil', () => {
  beforeEach(async () => {
    batch = await newBatch();
    const run = await batch.run();
    const first = run.prepared.steps.find((step) => step.weigh);
    item = first?.weigh?.item ?? '';
    await batch.upTo(first?.id ?? '');
    target = (await batch.run()).state.targets_g[item] ?? 0;
    await tare();
  });

  it('says how far it is to go, and when it is right', async () => {
    const { user } = await weigh(showing({ weight_g: 0 }));
    await screen.findByTestId('live-weight');
    expect(screen.getByText(/to go/)).toBeTruthy();
    await user.click(screen.getByText('pour 1'));
    expect(await screen.findByText('right')).toBeTruthy();
    await user.click(screen.getByText('pour 1.1'));
    expect(await screen.findByText(/ over$/)).toBeTruthy();
  });

  it('takes a right weight and goes on by itself', async () => {
    const { user } = await weigh(showing({ weight_g: 0 }));
    await user.click(await screen.findByText('pour 1'));
    await user.click(screen.getByTestId('take-weight'));
    await waitFor(async () => expect((await batch.run()).state.done).toContain(`weigh-${item}`));
    expect((await batch.run()).state.captured_g[item]).toBeCloseTo(target, 1);
    await waitFor(() => expect(current()).not.toBe(`weigh-${item}`));
  });

  it('takes nothing that a scale cannot stand for, and says why', async () => {
    const cases: [DeviceReadings | null, RegExp][] = [
      [null, /does not answer/],
      [showing({ state: 'unplugged', weight_g: null, tare: null }), /unplugged/],
      [showing({ state: 'overload', weight_g: null, tare: null }), /too heavy/],
      [showing({ tare: null, weight_g: 120 }), /Empty the bowl/],
      [showing({ weight_g: -4 }), /below zero/],
      [showing({ state: 'settling', weight_g: 80 }), /to go/],
    ];
    await weigh(showing());
    await screen.findByTestId('live-weight');
    for (const [devices, words] of cases) {
      act(() => play(devices));
      expect(await screen.findByText(words)).toBeTruthy();
      expect(screen.getByTestId<HTMLButtonElement>('take-weight').disabled).toBe(true);
    }
  });

  it('can always be typed, in any unit', async () => {
    const { user } = await weigh(null);
    await user.click(await screen.findByTestId('type-weight'));
    await user.type(screen.getByTestId('typed-weight'), `${(target / 28.349523125).toFixed(3)} oz{Enter}`);
    await waitFor(async () => expect((await batch.run()).state.captured_g[item]).toBeCloseTo(target, 0));
  });

  it('offers the corrections of a pour that went too far, and takes one', async () => {
    const { user } = await weigh(showing({ weight_g: 0 }));
    await user.click(await screen.findByText('pour 1.1'));
    await user.click(screen.getByTestId('take-weight'));
    const corrections = await screen.findByTestId('corrections');
    expect(within(corrections).getByText(/ over\. Its share would be/)).toBeTruthy();
    const offered = within(corrections).getAllByRole('button').map((correction) => correction.dataset.testid);
    expect(offered).toEqual(['correction-remove', 'correction-keep_blend', 'correction-match_lye', 'correction-keep_size', 'correction-accept']);
    await user.click(screen.getByTestId('correction-match_lye'));
    await waitFor(async () => expect((await batch.run()).state.done).toContain(`weigh-${item}`));
    const run = await batch.run();
    expect(run.state.captured_g[item]).toBeCloseTo(1.1 * target, 1);
    expect(run.actual.superfat_percent).toBeCloseTo(run.prepared.planned.formula.superfat_percent ?? NaN, 1);
  });

  it('keeps a weight that is off on the screen, however often it is looked at', async () => {
    const { user } = await weigh(showing({ weight_g: 0 }));
    await user.click(await screen.findByText('pour 1.1'));
    await user.click(screen.getByTestId('take-weight'));
    await screen.findByTestId('corrections');
    expect(current()).toBe(`weigh-${item}`);
    expect((await batch.run()).state.settled).not.toContain(item);
  });
});

describe('weighing lye', () => {
  beforeEach(async () => {
    batch = await newBatch();
    item = 'lye:naoh';
    await batch.upTo('weigh-lye:naoh');
    target = (await batch.run()).state.targets_g[item] ?? 0;
    await tare();
  });

  it('is never taken or tared away by a stray key', async () => {
    const { user } = await weigh(showing({ weight_g: target }));
    await screen.findByText('right');
    const before = (await batch.run()).events;
    await user.keyboard('{Enter}');
    expect((await batch.run()).state).toMatchObject({ seq: before, captured_g: expect.not.objectContaining({ [item]: target }) as object });
  });

  it('shows what a second load has to come to, whatever the scale passes on the way', async () => {
    await batch.send({ kind: 'captured', item, weight_g: 80, source: 'scale', tared: true, tare: zero ?? '', adds: false, sure: false });
    await tare();
    await weigh(showing({ weight_g: 0 }));
    const left = (target - 80).toFixed(1);
    for (const weight_g of [0, 40, 79.9, Number(left)]) {
      act(() => play(showing({ weight_g })));
      await waitFor(() => expect(screen.getByTestId('goal').textContent).toContain(`of ${left} g`));
      expect(screen.getByTestId('in-bowl').textContent).toBe(`80.0 in the bowl + ${left} = ${target.toFixed(1)} g`);
    }
    expect(await screen.findByText('right')).toBeTruthy();
  });

  it('shows no weight once the scale lost its zero, and wants the bowl emptied', async () => {
    const { user } = await weigh(showing({ weight_g: 80 }));
    await screen.findByText(/to go/);
    act(() => play(devicesShowing({ tare: null, weight_g: target })));
    expect(await screen.findByTestId('zero-lost')).toBeTruthy();
    expect(screen.getByTestId('live-weight').textContent).toContain('– – –');
    expect(screen.getByTestId<HTMLButtonElement>('take-weight').disabled).toBe(true);
    expect(screen.queryByTestId('tare')).toBeNull();
    await user.click(screen.getByTestId('emptied'));
    await waitFor(async () => expect((await batch.run()).state.tare).toMatchObject({ item, emptied: true }));
  });

  it('asks about a weight that looks like a slip, and takes what was meant', async () => {
    const { user } = await weigh(showing({ weight_g: 0 }));
    await user.click(await screen.findByTestId('type-weight'));
    await user.type(screen.getByTestId('typed-weight'), (target / 10).toFixed(2));
    await user.click(screen.getByTestId('take-weight'));
    const asked = await screen.findByTestId('weigh-problem');
    expect(asked.textContent).toMatch(/far less/);
    await user.click(within(asked).getByRole('button', { name: /^It is \d/ }));
    await waitFor(async () => expect((await batch.run()).state.captured_g[item]).toBeCloseTo(target, 0));
  });

  it('lets a stray drop be poured on', async () => {
    await batch.send({ kind: 'captured', item, weight_g: 0.1, source: 'scale', tared: true, tare: zero ?? '', adds: false, sure: true });
    const { user } = await weigh(showing({ weight_g: 0.1 }));
    await user.click(await screen.findByTestId('correction-pour_on'));
    expect(screen.queryByTestId('corrections')).toBeNull();
    await user.click(screen.getByText('pour 1'));
    await user.click(screen.getByTestId('take-weight'));
    await waitFor(async () => expect((await batch.run()).state.captured_g[item]).toBeCloseTo(target, 1));
  });

  it('does not let dangerous lye pass', async () => {
    const { user } = await weigh(showing({ weight_g: 0 }));
    await user.click(await screen.findByText('pour 1.1'));
    await user.click(screen.getByTestId('take-weight'));
    const accept = await screen.findByTestId<HTMLButtonElement>('correction-accept');
    expect(accept.disabled).toBe(true);
    expect(accept.textContent).toContain('lye-heavy');
  });
});
