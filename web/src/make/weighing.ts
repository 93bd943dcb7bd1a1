/** How a weighing looks: whether a reading is right, and how far each phase of the work has come. Weights in g. */
import type { DeviceReadings, WeighingNow } from '../api/types';
import type { WorkRun } from './MakeContext';

type ScaleReading = NonNullable<DeviceReadings['scale']>;

export type Standing = 'under' | 'near' | 'right' | 'over';

/** How a reading stands against what it should come to; `near` is within a tenth of it. */
export function standingOf(reading: number, toShow: number, tolerance: number): Standing {
  const off = reading - toShow;
  if (Math.abs(off) <= tolerance + 1e-9) return 'right';
  if (off > 0) return 'over';
  return -off <= Math.max(toShow * 0.1, 3 * tolerance) ? 'near' : 'under';
}

/** What the scale is to this weighing: what it shows counts only from the zero that was set for it. */
export type ScaleState = 'silent' | 'unplugged' | 'overload' | 'lost' | 'untared' | 'below' | 'settling' | 'ready';

export function scaleStateOf(scale: ScaleReading | null | undefined, now: WeighingNow): ScaleState {
  if (scale == null) return 'silent';
  const isLost = now.tare !== null && now.tare !== undefined && scale.tare !== now.tare;
  if (scale.state === 'unplugged') return 'unplugged';
  if (scale.state === 'overload') return 'overload';
  if (isLost) return 'lost';
  if (now.needs_tare) return 'untared';
  if ((scale.weight_g ?? 0) < 0) return 'below';
  return scale.state === 'steady' ? 'ready' : 'settling';
}

/** Phases in order, each with how far it is. */
export function phasesOf({ prepared: { steps }, phases, state }: Pick<WorkRun, 'prepared' | 'state'> & { phases: string[] }): { name: string; caustic: boolean; state: 'done' | 'now' | 'ahead' }[] {
  return phases.map((name) => {
    const own = steps.filter((step) => step.phase === name);
    const isDone = own.every((step) => state.done.includes(step.id));
    const isNow = own.some((step) => step.id === state.current);
    return { name, caustic: own.some((step) => step.caustic), state: isNow ? 'now' : isDone ? 'done' : 'ahead' };
  });
}
