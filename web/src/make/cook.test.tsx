import { screen, waitFor } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import type { Step } from '../api/types';
import { MakingRoom, newBatch, type Batch } from '../testing/kitchen';
import { show } from '../testing/show';
import { CheckStep } from './CheckStep';
import { IfNeeded, PackStep, StagesStep, TestStep } from './CookSteps';
import { StepTimers, TimerPanel } from './TimerPanel';

const paste = () => newBatch('Wool-wash paste', { moulds: [], size: { by: 'oils_g', value: 500, available_g: {} }, jar_g: 250 });

async function at(batch: Batch, stepId: string, draw: (step: Step) => React.ReactNode) {
  await batch.upTo(stepId);
  return show(
    <MakingRoom batch={batch}>
      {(run) => {
        const step = run.prepared.steps.find((one) => one.id === stepId);
        return step && draw(step);
      }}
    </MakingRoom>,
  );
}

describe('what is cooked', () => {
  it('is noted stage by stage, and has a timer and help', async () => {
    const batch = await paste();
    const { user } = await at(batch, 'paste', (step) => (
      <>
        <StagesStep step={step} isCurrent />
        <IfNeeded step={step} />
        <StepTimers minutes={step.timer_minutes ?? []} />
        <TimerPanel />
      </>
    ));
    await user.click(await screen.findByTestId('stage-thin'));
    await waitFor(async () => expect((await batch.run()).state.stages?.map((mark) => mark.what)).toEqual(['thin']));
    expect(screen.getByTestId('stage-thin').textContent).toContain('after');
    expect(screen.getByText(/Blend it back/)).toBeTruthy();
    await user.click(screen.getByTestId('timer-15'));
    expect(screen.getByTestId('timer').textContent).toMatch(/^1[45]:/);
  });

  it('does not leave the heat before it passes its test', async () => {
    const batch = await paste();
    const { user } = await at(batch, 'zap', (step) => (
      <>
        <TestStep step={step} isCurrent />
        <CheckStep step={step} isCurrent />
      </>
    ));
    await user.click(await screen.findByTestId('outcome-zaps'));
    await waitFor(() => expect(screen.getByTestId('tests-made').textContent).toContain('not yet'));
    await user.click(screen.getByTestId('step-done'));
    expect(await screen.findByText(/The last test was not passed/)).toBeTruthy();
    await user.type(screen.getByTestId('ph'), '9.5');
    await user.click(screen.getByTestId('note-ph'));
    await waitFor(() => expect(screen.getByTestId('tests-made').textContent).toContain('pH 9.5: passed'));
    await user.click(screen.getByTestId('step-done'));
    await waitFor(async () => expect((await batch.run()).state.done).toContain('zap'));
  });

  it('is counted and weighed into its jars', async () => {
    const batch = await paste();
    const { user } = await at(batch, 'pack', () => <PackStep isCurrent />);
    expect((await screen.findByTestId<HTMLInputElement>('jars')).value).toBe('4');
    await user.type(screen.getByTestId('packed-weight'), '880');
    await user.click(screen.getByTestId('note-packed'));
    await waitFor(() => expect(screen.getByTestId('packed').textContent).toContain('in 4 jars'));
  });
});
