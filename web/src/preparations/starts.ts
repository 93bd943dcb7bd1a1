import type { PasteOnHand, Preparation } from '../api/types';

interface Start {
  kind: Preparation['kind'];
  title: string;
  noun: string;
  about: string;
  plan: (pastes: PasteOnHand[]) => Preparation;
}

/** What can be prepared, each with what it begins with. */
export const STARTS: Start[] = [
  {
    kind: 'dilution',
    title: 'Dilute paste',
    noun: 'liquid soap',
    about: 'One paste or several, thinned, preserved and bottled.',
    plan: ([first]) => ({
      kind: 'dilution',
      name: first ? `${first.name}, diluted` : 'Liquid soap',
      pastes: first ? [{ batch_id: first.batch_id, share_percent: 100, soap_percent: null }] : [],
      soap_percent: null,
      size_by: 'bottles',
      bottles: null,
      bottle_ml: null,
      paste_g: null,
      style: 'pump',
      preservative: null,
      scents: [],
      brine_percent: null,
      wash_water: 'soft',
      notes: '',
    }),
  },
  {
    kind: 'rebatch',
    title: 'Rebatch soap',
    noun: 'rebatch',
    about: 'Trimmings, or bars that went wrong: grated, melted, pressed again.',
    plan: () => ({ kind: 'rebatch', name: 'Rebatched bars', soap_g: null, age_days: null, liquid: 'water', liquid_percent: null, is_lye_heavy: false, notes: '' }),
  },
  {
    kind: 'master_lye',
    title: 'Master lye',
    noun: 'master lye',
    about: 'Lye dissolved ahead for several batches.',
    plan: () => ({ kind: 'master_lye', name: 'Master lye', lye: 'naoh', lye_g: null, purity_percent: null, concentration_percent: 50, room_c: 20, notes: '' }),
  },
  {
    kind: 'master_blend',
    title: 'Master blend',
    noun: 'master blend',
    about: 'Oils melted together ahead for several batches.',
    plan: () => ({ kind: 'master_blend', name: 'Master blend', parts: [], total_g: null, notes: '' }),
  },
];
