import type { CureEvent } from './useCure';

type Fault = Extract<CureEvent, { kind: 'seen' }>['fault'];

/** What may be seen on or in bars while they cure; the fault finder has the words. */
export const FAULT_IDS: Fault[] = ['ash', 'gel_ring', 'rivers', 'pockets', 'bubbles', 'separation', 'crumble', 'colour_shift', 'spots', 'sticky', 'cracks', 'sweat', 'muddy'];
