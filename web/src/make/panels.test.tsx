import { screen, waitFor } from '@testing-library/react';
import { beforeEach, describe, expect, it } from 'vitest';

import { answered, api } from '../api/client';
import { devicesShowing, MakingRoom, newBatch, type Batch } from '../testing/kitchen';
import { show } from '../testing/show';
import { DevicePanel } from './DevicePanel';
import { NotesPanel } from './NotesPanel';
import { useDevices } from './useDevices';

let batch: Batch;

beforeEach(async () => {
  batch = await newBatch();
  await answered(api.POST('/api/devices/scale/play', { body: { what: 'clear', grams: 0 } }));
  await answered(api.POST('/api/devices/scale/play', { body: { what: 'unplug', grams: 0 } }));
  // Plugged in again it shows zero.
  await answered(api.POST('/api/devices/scale/play', { body: { what: 'plug', grams: 0 } }));
});

const scale = async () => (await answered(api.GET('/api/devices'))).scale;
const thermometer = async () => (await answered(api.GET('/api/devices'))).thermometer;
const comesToRestAt = (grams: number) =>
  waitFor(async () => expect(await scale())?.toMatchObject({ state: 'steady', weight_g: expect.closeTo(grams, 0) as number }), { timeout: 5000 });

describe('the simulated scale', () => {
  async function atFirstOil() {
    const run = await batch.run();
    const first = run.prepared.steps.find((step) => step.weigh);
    await batch.upTo(first?.id ?? '');
    const drawn = await show(
      <MakingRoom batch={batch} devices={devicesShowing()}>
        {() => <DevicePanel />}
      </MakingRoom>,
    );
    await screen.findByTestId('pour-right');
    return { ...drawn, target: (await batch.run()).state.targets_g[first?.weigh?.item ?? ''] ?? NaN };
  }

  it('is poured on to the target, whatever it showed when the button was pressed', async () => {
    const { user, target } = await atFirstOil();
    await user.click(screen.getByTestId('pour-right'));
    await user.click(screen.getByTestId('pour-right'));
    await comesToRestAt(target);
  });

  it('takes a splash too much and a pinch off again', async () => {
    const { user, target } = await atFirstOil();
    await user.click(screen.getByTestId('pour-right'));
    await comesToRestAt(target);
    await user.click(screen.getByTestId('pour-more'));
    await comesToRestAt(1.06 * target);
    await user.click(screen.getByRole('button', { name: 'pinch off' }));
    await comesToRestAt(1.05 * target);
    await user.click(screen.getByTestId('clear'));
    await comesToRestAt(0);
  });

  it('is overloaded, cleared, unplugged and plugged in', async () => {
    const { user } = await atFirstOil();
    await user.click(screen.getByRole('button', { name: 'overload' }));
    await waitFor(async () => expect((await scale())?.state).toBe('overload'));
    await user.click(screen.getByTestId('clear'));
    await user.click(screen.getByTestId('unplug'));
    await waitFor(async () => expect((await scale())?.state).toBe('unplugged'));
    await answered(api.POST('/api/devices/scale/play', { body: { what: 'plug', grams: 0 } }));
    expect((await scale())?.state).not.toBe('unplugged');
  });

  it('can be folded away', async () => {
    const { user } = await atFirstOil();
    await user.click(screen.getByRole('button', { name: /^simulated/ }));
    expect(screen.queryByTestId('pour-right')).toBeNull();
  });
});

describe('the simulated bowls', () => {
  it('are brought to the window, cooled by a step, and put on ice', async () => {
    const run = await batch.upTo('temperatures');
    const { low_c: low, high_c: high } = run.prepared.planned.window;
    const { user } = await show(
      <MakingRoom batch={batch} devices={devicesShowing({ celsius: { oils: 60, lye: 60, room: 20 } })}>
        {() => <DevicePanel />}
      </MakingRoom>,
    );
    await user.click(await screen.findByTestId('right-oils'));
    await waitFor(async () => expect((await thermometer())?.celsius.oils).toBeCloseTo((low + high) / 2, -0.5));
    await user.click(screen.getByTestId('cool-lye'));
    await waitFor(async () => expect((await thermometer())?.celsius.lye).toBeLessThan(53));
    await user.click(screen.getAllByRole('button', { name: 'ice' })[1] as HTMLElement);
    await user.click(screen.getByRole('button', { name: 'unplug' }));
    await waitFor(async () => expect((await thermometer())?.state).toBe('unplugged'));
    await answered(api.POST('/api/devices/thermometer/play', { body: { what: 'plug', bowl: 'oils', celsius: 20 } }));
  });
});

function Shown() {
  const devices = useDevices();
  return <span data-testid="shown">{devices === null ? 'nothing' : devices.scale?.state}</span>;
}

describe('the stream of readings', () => {
  it('shows nothing while nothing answers, and reads again by itself', async () => {
    const sources: { onmessage?: (message: { data: string }) => void; onerror?: () => void; isClosed?: boolean }[] = [];
    class Source {
      onmessage?: (message: { data: string }) => void;
      onerror?: () => void;
      isClosed = false;
      constructor() {
        sources.push(this);
      }
      close() {
        this.isClosed = true;
      }
    }
    const real = globalThis.EventSource;
    globalThis.EventSource = Source as unknown as typeof EventSource;
    try {
      const { unmount } = await show(<Shown />);
      const shown = () => screen.getByTestId('shown').textContent;
      expect(shown()).toBe('nothing');
      sources[0]?.onmessage?.({ data: JSON.stringify(devicesShowing({ state: 'settling' })) });
      await waitFor(() => expect(shown()).toBe('settling'));
      sources[0]?.onerror?.();
      await waitFor(() => expect(shown()).toBe('nothing'));
      sources[0]?.onmessage?.({ data: JSON.stringify(devicesShowing()) });
      await waitFor(() => expect(shown()).toBe('steady'));
      unmount();
      expect(sources.every((source) => source.isClosed)).toBe(true);
    } finally {
      globalThis.EventSource = real;
    }
  });
});

describe('notes on make day', () => {
  async function notes() {
    await batch.send({ kind: 'started', targets_g: {} });
    const drawn = await show(<MakingRoom batch={batch}>{() => <NotesPanel />}</MakingRoom>);
    await screen.findByTestId('note');
    return drawn;
  }

  it('are written down, and marked when they are for next time', async () => {
    const { user } = await notes();
    expect(screen.getByTestId<HTMLButtonElement>('add-note').disabled).toBe(true);
    await user.type(screen.getByTestId('note'), 'Thick at once.');
    await user.click(screen.getByTestId('next-time'));
    await user.click(screen.getByTestId('add-note'));
    expect(await screen.findByText('next time')).toBeTruthy();
    expect((await batch.run()).state.next_time).toEqual(['Thick at once.']);
    expect(screen.getByTestId<HTMLTextAreaElement>('note').value).toBe('');
  });

  it('take pictures, and refuse what is none in words', async () => {
    const { user, container } = await notes();
    const input = container.querySelector('input[type=file]') as HTMLInputElement;
    // Four white points.
    const png = Uint8Array.from(atob('iVBORw0KGgoAAAANSUhEUgAAAAIAAAACCAIAAAD91JpzAAAAFklEQVR4nGP8//8/AwMDEwMDAwMDAwAkBgMB/DXemwAAAABJRU5ErkJggg=='), (sign) => sign.charCodeAt(0));
    await user.upload(input, new File([png], 'loaf.png', { type: 'image/png' }));
    const picture = await screen.findByRole<HTMLImageElement>('img', { name: 'loaf.png' });
    expect(picture.getAttribute('src')).toMatch(new RegExp(`/api/batches/${batch.id}/photos/\\d+\\?small=true$`));
    await user.upload(input, new File(['<svg/>'], 'loaf.png', { type: 'image/png' }));
    expect((await screen.findByRole('alert')).textContent).toMatch(/JPEG, PNG and WebP/);
    expect((await batch.run()).state.photos).toHaveLength(1);
  });
});
