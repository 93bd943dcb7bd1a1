import { useMutation, useMutationState, useQuery, useQueryClient, type QueryClient } from '@tanstack/react-query';

import { answered, api, ApiFailure } from './client';
import { HOLDS_MS } from './queries';
import type { Workshop, WorkshopChange } from './types';

const KEY = ['workshop'];

/** What is to be changed: as it shall be, or as a function of what is known when its turn comes, so that a change before it stays. */
export type ChangeOfWorkshop = WorkshopChange | ((known: Workshop) => WorkshopChange);

const changed = (known: Workshop, change: ChangeOfWorkshop) => (typeof change === 'function' ? change(known) : change);

const fetchWorkshop = () => answered(api.GET('/api/workshop'));

/** What is known of the workshop; undefined while it is asked for. */
export function useWorkshop(): Workshop | undefined {
  return useQuery({ queryKey: KEY, queryFn: fetchWorkshop, staleTime: HOLDS_MS }).data;
}

/** The workshop as it will be once what `useWorkshopChange` has on its way is kept: what is chosen next starts from there. */
export function useWorkshopSoon(): Workshop | undefined {
  const known = useWorkshop();
  const onTheirWay = useMutationState({
    filters: { mutationKey: KEY, status: 'pending' },
    select: ({ state }) => state.variables as ChangeOfWorkshop,
  });
  return known && onTheirWay.reduce((soon, change) => ({ ...soon, ...changed(soon, change) }) as Workshop, known);
}

/** Changes to the workshop, kept one after the other in the order they were made. A change made twice must be the same as once. */
export function useWorkshopChange() {
  const client = useQueryClient();
  return useMutation({ mutationKey: KEY, scope: { id: 'workshop' }, mutationFn: (change: ChangeOfWorkshop) => changeWorkshop(client, change) });
}

/**
 * Change the workshop, as long as what is changed is still as it was when it was looked at: `was`, or what is known of it here.
 * Where it is not, what is shown is fetched anew and the failure says so.
 */
export async function changeWorkshop(client: QueryClient, wanted: ChangeOfWorkshop, was?: WorkshopChange): Promise<Workshop> {
  const known = client.getQueryData<Workshop>(KEY) ?? (typeof wanted === 'function' ? await fetchWorkshop() : undefined);
  const change = typeof wanted === 'function' ? wanted(known as Workshop) : wanted;
  const names = Object.keys(change) as (keyof Workshop)[];
  const seen = was ?? (known && (Object.fromEntries(names.map((name) => [name, known[name]])) as WorkshopChange));
  try {
    const kept = await answered(api.PATCH('/api/workshop', { body: { ...change, ...(seen && { was: seen }) } }));
    client.setQueryData(KEY, kept);
    return kept;
  } catch (error) {
    if (error instanceof ApiFailure && error.code === 'changed_elsewhere') await client.invalidateQueries({ queryKey: KEY });
    throw error;
  }
}
