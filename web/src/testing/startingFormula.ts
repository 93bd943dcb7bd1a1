import type { Formula } from '../api/types';

/** A formula without oils, for tests that ask no server. */
export function startingFormula(): Formula {
  return {
    name: 'New formula',
    purpose: 'everyday-body',
    notes: '',
    tags: [],
    blend: { total_oils_g: 1000, lines: [] },
    lye: { naoh_purity_percent: null },
    superfat_percent: 5,
    water: { by: 'lye_concentration_percent', value: 33 },
    liquids: [],
    additives: [],
    process: { method: 'cold', gel: 'natural' },
    wash_water: 'soft',
    free_of: [],
    materials: [],
  };
}
