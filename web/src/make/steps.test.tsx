import { screen, waitFor } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import type { Step } from '../api/types';
import { devicesShowing, MakingRoom, newBatch } from '../testing/kitchen';
import { show } from '../testing/show';
import { CheckStep } from './CheckStep';
import { CompositionPanel } from './BowlPanel';
import { PourStep } from './PourStep';
import { TemperatureStep } from './TemperatureStep';
import { TraceStep } from './TraceStep';

async function atStep(stepId: string, draw: (step: Step) => React.ReactNode, celsius?: Record<string, number> | null) {
  const batch = await newBatch();
  await batch.upTo(stepId);
  const drawn = await show(
    <MakingRoom batch={batch} devices={celsius === null ? null : devicesShowing({ celsius })}>
      {(run) => {
        const step = run.prepared.steps.find((one) => one.id === stepId);
        return step && draw(step);
      }}
    </MakingRoom>,
  );
  return { batch, ...drawn };
}

describe('what is confirmed', () => {
  it('is confirmed point by point before anything is weighed', async () => {
    const { user, batch } = await atStep('gear', (step) => <CheckStep step={step} isCurrent />);
    const done = await screen.findByTestId<HTMLButtonElement>('step-done');
    const points = screen.getAllByRole('checkbox');
    expect(points.length).toBeGreaterThan(2);
    for (const point of points) {
      expect(done.disabled).toBe(true);
      await user.click(point);
    }
    expect(done.disabled).toBe(false);
    await user.click(done);
    await waitFor(async () => expect((await batch.run()).state.done).toEqual(['gear']));
  });

  it('a caustic step is not passed by the Enter key', async () => {
    const { user, batch } = await atStep('make-lye', (step) => <CheckStep step={step} isCurrent />);
    for (const point of await screen.findAllByRole('checkbox')) await user.click(point);
    (document.activeElement as HTMLElement | null)?.blur();
    await user.keyboard('{Enter}');
    expect((await batch.run()).state.current).toBe('make-lye');
  });

  it('bowls that are not ready are not passed by the Enter key, but by saying so', async () => {
    const { user, batch } = await atStep('temperatures', (step) => <CheckStep step={step} isCurrent />);
    const done = await screen.findByRole('button', { name: 'Go on anyway' });
    await user.keyboard('{Enter}');
    expect((await batch.run()).state.current).toBe('temperatures');
    await user.click(done);
    await waitFor(async () => expect((await batch.run()).state.done).toContain('temperatures'));
  });

  it('a step that is looked back at cannot be done again', async () => {
    await atStep('room', (step) => <CheckStep step={step} isCurrent={false} />);
    expect((await screen.findAllByRole<HTMLInputElement>('checkbox')).every((point) => point.disabled && point.checked)).toBe(true);
    expect(screen.queryByTestId('step-done')).toBeNull();
  });
});

describe('temperatures', () => {
  it('are logged from the thermometer, bowl by bowl, until both are ready', async () => {
    const { user, batch } = await atStep('temperatures', () => <TemperatureStep isCurrent />, { oils: 41, lye: 40, room: 20 });
    expect((await screen.findByTestId('cooling')).textContent).toContain('Read both bowls');
    await user.click(screen.getByTestId('log-oils'));
    await user.click(screen.getByTestId('log-lye'));
    await waitFor(() => expect(screen.getByTestId('cooling').textContent).toContain('Both are ready'));
    expect((await batch.run()).state.readings.map((one) => [one.bowl, one.celsius])).toEqual([['oils', 41], ['lye', 40]]);
  });

  it('typed in the other unit are asked about, with the reading that may have been meant', async () => {
    const { user, batch } = await atStep('temperatures', () => <TemperatureStep isCurrent />);
    await user.type(await screen.findByTestId('type-oils'), '104{Enter}');
    expect((await screen.findByRole('alert')).textContent).toContain('Does the thermometer show °F?');
    expect((await batch.run()).state.readings).toEqual([]);
    await user.click(screen.getByRole('button', { name: /It is 104\s°F/ }));
    await waitFor(async () => expect((await batch.run()).state.readings[0]?.celsius).toBe(40));
  });

  it('typed are logged by a button of their own, also without a thermometer', async () => {
    const { user, batch } = await atStep('temperatures', () => <TemperatureStep isCurrent />, null);
    expect((await screen.findByTestId<HTMLButtonElement>('log-oils')).disabled).toBe(true);
    expect(screen.getByTestId('live-oils').textContent).toBe('–no answer from the thermometer');
    expect(screen.getByTestId<HTMLButtonElement>('log-typed-oils').disabled).toBe(true);
    await user.type(screen.getByTestId('type-oils'), '39.5');
    await user.click(screen.getByTestId('log-typed-oils'));
    await waitFor(async () => expect((await batch.run()).state.readings).toMatchObject([{ bowl: 'oils', celsius: 39.5 }]));
  });

  it('stand when the maker is sure', async () => {
    const { user, batch } = await atStep('temperatures', () => <TemperatureStep isCurrent />);
    await user.type(await screen.findByTestId('type-oils'), '95{Enter}');
    await user.click(await screen.findByRole('button', { name: 'It is right' }));
    await waitFor(async () => expect((await batch.run()).state.readings[0]?.celsius).toBe(95));
    await waitFor(() => expect(screen.queryByRole('alert')).toBeNull());
  });

  it('read by the thermometer stand too when the maker is sure, such as oils that were warmed again', async () => {
    const { user, batch } = await atStep('temperatures', () => <TemperatureStep isCurrent />, { oils: 62, lye: 40, room: 20 });
    await batch.send({ kind: 'temperature', bowl: 'oils', celsius: 30, read_in: 'C', source: 'typed', sure: false });
    await user.click(await screen.findByTestId('log-oils'));
    expect((await screen.findByRole('alert')).textContent).toContain('much hotter than it was before');
    await user.click(screen.getByRole('button', { name: 'It is right' }));
    await waitFor(async () => expect((await batch.run()).state.readings.map((one) => one.celsius)).toEqual([30, 62]));
  });

  it('are read and shown in °F by those who read °F', async () => {
    localStorage.setItem('sapolin.temperature-unit', JSON.stringify('°F'));
    const { user, batch } = await atStep('temperatures', () => <TemperatureStep isCurrent />, { oils: 40, lye: 40, room: 20 });
    expect((await screen.findByTestId('live-oils')).textContent).toContain('104.0');
    // A thermometer in °C read as °F: 38 °F is far too cold.
    await user.type(screen.getByTestId('type-oils'), '38{Enter}');
    expect((await screen.findByRole('alert')).textContent).toMatch(/38\s°F is far colder than the room/);
    await user.click(screen.getByRole('button', { name: /It is 38\s°C/ }));
    await waitFor(async () => expect((await batch.run()).state.readings[0]?.celsius).toBe(38));
  });
});

describe('trace', () => {
  it('is timed from the moment the lye met the oils, stage by stage', async () => {
    const { user, batch } = await atStep('trace', () => <TraceStep isCurrent />);
    await user.click(await screen.findByRole('button', { name: /^emulsion/ }));
    await user.click(screen.getByRole('button', { name: /^burst/ }));
    await waitFor(async () => expect((await batch.run()).state.bursts).toBe(1));
    await user.click(screen.getByRole('button', { name: /^light/ }));
    await waitFor(async () => expect((await batch.run()).state.marks.map((mark) => mark.what)).toEqual(['emulsion', 'light']));
    await waitFor(() => expect(screen.getByRole<HTMLButtonElement>('button', { name: /^emulsion/ }).disabled).toBe(true));
    expect(screen.getByTestId('trace-timer').textContent).toMatch(/^0:\d\d/);
  });

  it('tells what to do when it seizes', async () => {
    const { user } = await atStep('trace', () => <TraceStep isCurrent />);
    await user.click(await screen.findByRole('button', { name: /^it seizes/ }));
    expect(await screen.findByText(/Stir hard by hand/)).toBeTruthy();
  });
});

describe('what is in the bowl', () => {
  it('is told against its target in the maker’s unit', async () => {
    localStorage.setItem('sapolin.weight-unit', JSON.stringify('oz'));
    const batch = await newBatch();
    const run = await batch.upTo('room');
    const weigh = run.prepared.steps.find((step) => step.weigh)?.weigh;
    await batch.upTo(`weigh-${weigh?.item}`);
    const weight_g = (weigh?.target_g ?? 0) + 28.35;
    await batch.send({ kind: 'captured', item: weigh?.item ?? '', weight_g, source: 'typed', tared: true, tare: '', adds: false, sure: false });
    await show(<MakingRoom batch={batch}>{() => <CompositionPanel />}</MakingRoom>);
    const row = (await screen.findByText(weigh?.name ?? '')).closest('tr');
    expect(row?.textContent).toContain('+1.00');
  });
});

describe('pouring', () => {
  it('notes what was left over with a button, and says what cannot be', async () => {
    const { user, batch } = await atStep('pour', () => <PourStep isCurrent />);
    await user.type(await screen.findByTestId('left-over-0'), '90000');
    await user.click(screen.getByRole('button', { name: 'Note it' }));
    expect((await screen.findByRole('alert')).textContent).toContain('more than there was for');
    expect(screen.getByTestId<HTMLInputElement>('left-over-0').value).toBe('90 000');
    await user.clear(screen.getByTestId('left-over-0'));
    await user.type(screen.getByTestId('left-over-0'), '-20');
    await user.click(screen.getByRole('button', { name: 'Note it' }));
    expect(await screen.findByText('20 mL short')).toBeTruthy();
    expect((await batch.run()).state.poured_ml).toEqual({ 0: -20 });
  });
});
