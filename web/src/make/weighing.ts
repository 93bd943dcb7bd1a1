/** What a weighing shows: how far to go, and whether it is right. Weights in g. */
import type { Run, Step } from '../api/types';

export interface Weighing {
  item: string;
  target: number;
  tolerance: number;
  /** What is in the pot of it already. */
  captured: number;
  /** What is still to be poured now. */
  toPour: number;
  /** It comes on top of what was captured. */
  isTopUp: boolean;
  isSettled: boolean;
}

export function weighingOf(step: Step, run: Run): Weighing | null {
  if (!step.weigh) return null;
  const { item, tolerance_g: tolerance } = step.weigh;
  const target = run.state.targets_g[item] ?? step.weigh.target_g;
  const captured = run.state.captured_g[item] ?? 0;
  const isTopUp = captured > 0 && captured < target - tolerance;
  return {
    item,
    target,
    tolerance,
    captured,
    toPour: isTopUp ? target - captured : target,
    isTopUp,
    isSettled: run.state.settled.includes(item),
  };
}

export type Standing = 'under' | 'near' | 'right' | 'over';

/** A top-up while the first pour still stands on the scale is read as one weight: it takes the place of the first. */
export function asRead(weighing: Weighing, reading: number | null): Weighing {
  const isWhole = weighing.isTopUp && reading !== null && reading >= 0.9 * weighing.captured;
  return isWhole ? { ...weighing, toPour: weighing.target, isTopUp: false } : weighing;
}

/** How a reading stands against what is to be poured; `near` is within a tenth of it. */
export function standingOf(reading: number, weighing: Weighing): Standing {
  const off = reading - weighing.toPour;
  if (Math.abs(off) <= weighing.tolerance + 1e-9) return 'right';
  if (off > 0) return 'over';
  return -off <= Math.max(weighing.toPour * 0.1, 3 * weighing.tolerance) ? 'near' : 'under';
}

/** Phases in order, each with how far it is. */
export function phasesOf(steps: Step[], run: Run): { name: string; caustic: boolean; state: 'done' | 'now' | 'ahead' }[] {
  const names = [...new Set(steps.map((step) => step.phase))];
  return names.map((name) => {
    const own = steps.filter((step) => step.phase === name);
    const isDone = own.every((step) => run.state.done.includes(step.id));
    const isNow = own.some((step) => step.id === run.state.current);
    return { name, caustic: own.some((step) => step.caustic), state: isNow ? 'now' : isDone ? 'done' : 'ahead' };
  });
}
