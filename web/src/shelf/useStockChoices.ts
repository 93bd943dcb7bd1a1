import { useOilsAndMaterials, useReference } from '../api/queries';
import type { Lot } from '../api/types';

/** Everything that can stand on the shelf, by groups, for a list to choose from; packaging apart. */
export function useStockChoices() {
  const oils = useOilsAndMaterials();
  const { liquids, additives, scents, colorants } = useReference();
  const of = (kind: Lot['kind'], ones: readonly { id: string; name: string }[]) => ones.map((one) => ({ value: kind === 'oil' || kind === 'lye' ? one.id : `${kind}:${one.id}`, label: one.name, kind }));
  return [
    { group: 'Oils', items: of('oil', oils) },
    { group: 'Lye', items: of('lye', [{ id: 'naoh', name: 'Sodium hydroxide (NaOH)' }, { id: 'koh', name: 'Potassium hydroxide (KOH)' }]) },
    { group: 'Liquids', items: of('liquid', liquids) },
    { group: 'Additives', items: of('additive', additives) },
    { group: 'Scents', items: of('scent', scents) },
    { group: 'Colours', items: of('colorant', colorants) },
  ];
}
