import { useQueryClient } from '@tanstack/react-query';

import type { Workshop } from '../api/types';
import { useWorkshopChange } from '../api/workshop';
import { useTellFailure } from '../app/showFailure';

/** Changes what is to be bought beside what batches are short of; each resolves once it is kept, to whether it was. */
export function useAlsoBuy() {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const change = useWorkshopChange();
  const keep = async (material: string, also: NonNullable<Workshop['also_buy']>) => {
    try {
      await change.mutateAsync((known) => ({ also_buy: [...(known.also_buy ?? []).filter((one) => one.material !== material), ...also] }));
      await client.invalidateQueries({ queryKey: ['buying'] });
      return true;
    } catch (error) {
      tellFailure(error);
      return false;
    }
  };
  return {
    put: (material: string, grams: number) => keep(material, [{ material, grams }]),
    drop: (material: string) => keep(material, []),
    isKeeping: change.isPending,
  };
}
