import { createContext, use } from 'react';

import type { DeviceReadings, Run } from '../api/types';
import type { RunEvent, Sent, TareAnswer } from './useRun';

export interface Making {
  run: Run;
  send: (event: RunEvent) => Promise<Sent>;
  tare: (item: string, answer?: TareAnswer) => Promise<Sent>;
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
