import type { OwnMaterial } from '../api/types';

type Content = OwnMaterial['content'];

/** A content of the given kind with everything still to be entered. */
export function newContent(kind: Content['kind']): Content {
  switch (kind) {
    case 'profile':
      return { kind, acids_percent: {}, sap_koh_mg_per_g: null, unsaponifiable_percent: 0.5, solid_at_20_c: false };
    case 'sap':
      return { kind, sap_koh_mg_per_g: null, solid_at_20_c: false };
    case 'certificate':
      return { kind, of: 'coconut', sap_koh_mg_per_g: null, iodine_value: null, acids_percent: null };
    case 'recipe':
      return { kind, components: [], filler_percent: 0 };
  }
}

/** A material to start from; the server gives it its id. */
export function newMaterial(kind: Content['kind']): OwnMaterial {
  return {
    id: 'own-new',
    name: 'New material',
    notes: '',
    allergens: '',
    palm_derived: 'maybe',
    vegan: 'maybe',
    content: newContent(kind),
  };
}
