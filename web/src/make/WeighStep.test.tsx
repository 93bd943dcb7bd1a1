import { act, screen, waitFor, within } from '@testing-library/react';
import { beforeEach, describe, expect, it } from 'vitest';

import type { DeviceReadings } from '../api/types';
import { devicesShowing, MakingRoom, newBatch, type Batch } from '../testing/kitchen';
import { show } from '../testing/show';
import { WeighStep } from './WeighStep';

let batch: Batch;
let target: number;
let item: string;
/** Let the devices show something else. */
let play: (devices: DeviceReadings | null) => void;

async function weigh(devices: DeviceReadings | null) {
  return show(
    <MakingRoom batch={batch} devices={devices}>
      {(run, show) => {
        play = show;
        const step = run.work.steps.find((one) => one.weigh?.item === item);
        return (
          <>
            {step && <WeighStep step={step} isCurrent={run.state.current === step.id} />}
            <span data-testid="current">{run.state.current}</span>
            {[1, 1.1].map((part) => (
              <button key={part} type="button" onClick={() => play(devicesShowing({ weight_g: Number((part * target).toFixed(1)) }))}>
                pour {part}
              </button>
            ))}
          </>
        );
      }}
    </MakingRoom>,
  );
}

const current = () => screen.getByTestId('current').textContent;

describe('weighing an oil', () => {
  beforeEach(async () => {
    batch = await newBatch();
    const run = await batch.run();
    const first = run.work.steps.find((step) => step.weigh);
    item = first?.weigh?.item ?? '';
    await batch.upTo(first?.id ?? '');
    target = (await batch.run()).state.targets_g[item] ?? 0;
  });

  it('says how far it is to go, and when it is right', async () => {
    const { user } = await weigh(devicesShowing({ weight_g: 0 }));
    await screen.findByTestId('live-weight');
    expect(screen.getByText(/to go/)).toBeTruthy();
    await user.click(screen.getByText('pour 1'));
    expect(await screen.findByText('right')).toBeTruthy();
    await user.click(screen.getByText('pour 1.1'));
    expect(await screen.findByText(/ over$/)).toBeTruthy();
  });

  it('takes a right weight and goes on by itself', async () => {
    const { user } = await weigh(devicesShowing({ weight_g: 0 }));
    await user.click(await screen.findByText('pour 1'));
    await user.click(screen.getByTestId('take-weight'));
    await waitFor(async () => expect((await batch.run()).state.done).toContain(`weigh-${item}`));
    expect((await batch.run()).state.captured_g[item]).toBeCloseTo(target, 1);
    await waitFor(() => expect(current()).not.toBe(`weigh-${item}`));
  });

  it('takes nothing that a scale cannot stand for, and says why', async () => {
    const cases: [DeviceReadings | null, RegExp][] = [
      [null, /does not answer/],
      [devicesShowing({ state: 'unplugged', weight_g: null }), /unplugged/],
      [devicesShowing({ state: 'overload', weight_g: null }), /too heavy/],
      [devicesShowing({ tared: false, weight_g: 120 }), /tare with the container on it/],
      [devicesShowing({ weight_g: -4 }), /below zero/],
      [devicesShowing({ state: 'settling', weight_g: 80 }), /to go/],
    ];
    await weigh(devicesShowing());
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

  it('offers the ways out of a pour that went too far, and takes one', async () => {
    const { user } = await weigh(devicesShowing({ weight_g: 0 }));
    await user.click(await screen.findByText('pour 1.1'));
    await user.click(screen.getByTestId('take-weight'));
    const ways = await screen.findByTestId('ways-out');
    expect(within(ways).getByText(/ over\. Its share would be/)).toBeTruthy();
    const offered = within(ways).getAllByRole('button').map((way) => way.dataset.testid);
    expect(offered).toEqual(['way-remove', 'way-keep_blend', 'way-match_lye', 'way-keep_size', 'way-accept']);
    await user.click(screen.getByTestId('way-match_lye'));
    await waitFor(async () => expect((await batch.run()).state.done).toContain(`weigh-${item}`));
    const run = await batch.run();
    expect(run.state.captured_g[item]).toBeCloseTo(1.1 * target, 1);
    expect(run.made.superfat_percent).toBeCloseTo(run.work.planned.formula.superfat_percent ?? NaN, 1);
  });

  it('keeps a weight that is off on the screen, however often it is looked at', async () => {
    const { user } = await weigh(devicesShowing({ weight_g: 0 }));
    await user.click(await screen.findByText('pour 1.1'));
    await user.click(screen.getByTestId('take-weight'));
    await screen.findByTestId('ways-out');
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
  });

  it('is never taken by a stray key', async () => {
    const { user } = await weigh(devicesShowing({ weight_g: target }));
    await screen.findByText('right');
    await user.keyboard('{Enter}');
    expect((await batch.run()).state.captured_g[item]).toBeUndefined();
  });

  it('does not let dangerous lye pass', async () => {
    const { user } = await weigh(devicesShowing({ weight_g: 0 }));
    await user.click(await screen.findByText('pour 1.1'));
    await user.click(screen.getByTestId('take-weight'));
    const accept = await screen.findByTestId<HTMLButtonElement>('way-accept');
    expect(accept.disabled).toBe(true);
    expect(accept.textContent).toContain('lye-heavy');
  });
});
