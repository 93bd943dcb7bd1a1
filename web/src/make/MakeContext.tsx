import { createContext, use } from 'react';

import type { DeviceReadings, RecordedEvent, Run, RunState, Step, WeighingNow } from '../api/types';
import type { RunEvent, Sent, SentOf, TareAnswer } from './useRun';

export interface Making {
  run: Run;
  send: (event: RunEvent) => Promise<Sent>;
  tare: (item: string, answer?: TareAnswer) => Promise<Sent>;
}

/** Work that goes step by step, whatever is made. */
export interface WorkRun {
  record: { id: string };
  prepared: { steps: Step[]; planned?: { moulds: { name: string }[] } };
  state: RunState;
  events: number;
  /** The weighing it is at; null when the next step is none. */
  weighing: WeighingNow | null;
  amendable: number[];
  /** Of work that has bowls to cool. */
  cooling?: { ready: boolean };
}

export interface Work {
  run: WorkRun;
  /** It takes from lots, and what is off is put right by the formula. */
  isBatch: boolean;
  /** About how much paste, or bottles, are expected. */
  toPack: { pieces: number | null; unit: 'jars' | 'bottles' };
  send: (event: RunEvent) => Promise<SentOf<WorkRun>>;
  tare: (item: string, answer?: TareAnswer) => Promise<SentOf<WorkRun>>;
  record: () => Promise<RecordedEvent[]>;
}

export const WorkContext = createContext<Work | null>(null);

export function useWork(): Work {
  const work = use(WorkContext);
  if (work === null) throw new Error('useWork outside any work');
  return work;
}

export const MakeContext = createContext<Making | null>(null);

export function useMaking(): Making {
  const making = use(MakeContext);
  if (making === null) throw new Error('useMaking outside make day');
  return making;
}

/** Ten readings a second: a context of their own, so that only what shows them is drawn anew. Null while nothing answers. */
export const ReadingsContext = createContext<DeviceReadings | null>(null);

export function useReadings(): DeviceReadings | null {
  return use(ReadingsContext);
}
