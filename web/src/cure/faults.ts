import type { FaultCauses } from '../api/types';

type Fault = FaultCauses['fault'];

/** What may be seen on or in bars, by the words on its button. */
export const FAULTS: Record<Fault, string> = {
  ash: 'Ash',
  gel_ring: 'Gel ring',
  rivers: 'Rivers',
  pockets: 'Pockets, lumps',
  bubbles: 'Bubbles',
  separation: 'Separation',
  crumble: 'Crumbles',
  colour_shift: 'Colour changed',
  spots: 'Orange spots',
};
export const FAULT_IDS = Object.keys(FAULTS) as Fault[];
