import { useMutation, useQueryClient } from '@tanstack/react-query';

import type { Buying } from '../api/types';
import { changeWorkshop } from '../api/workshop';
import { useTellFailure } from '../app/showFailure';

type Also = { material: string; grams: number }[];

/** What is to be bought beside what batches are short of, and how to change it. */
export function useAlsoBuy(needs: Buying['needs']) {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const change = useMutation({
    mutationFn: (also_buy: Also) => changeWorkshop(client, { also_buy }),
    onSuccess: () => client.invalidateQueries({ queryKey: ['buying'] }),
    onError: tellFailure,
  });
  const now: Also = needs.filter((need) => need.also_g > 0).map((need) => ({ material: need.material, grams: need.also_g }));
  return { now, keep: (also: Also) => change.mutateAsync(also), isKeeping: change.isPending };
}
