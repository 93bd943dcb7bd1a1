import { useQuery, type QueryClient } from '@tanstack/react-query';

import { answered, api, ApiFailure } from './client';
import { HOLDS_MS } from './queries';
import type { Workshop, WorkshopChange } from './types';

const KEY = ['workshop'];

/** What is known of the workshop; undefined while it is asked for. */
export function useWorkshop(): Workshop | undefined {
  return useQuery({ queryKey: KEY, queryFn: () => answered(api.GET('/api/workshop')), staleTime: HOLDS_MS }).data;
}

/**
 * Change the workshop, as long as what is changed is still as it was when it was looked at: `was`, or what is known of it here.
 * Where it is not, what is shown is fetched anew and the failure says so. A change to one part of a whole is given as a function
 * of what is known when its turn comes, so that a change still under way before it stays.
 */
export async function changeWorkshop(client: QueryClient, wanted: WorkshopChange | ((known: Workshop) => WorkshopChange), was?: WorkshopChange): Promise<Workshop> {
  const known = client.getQueryData<Workshop>(KEY);
  const change = typeof wanted !== 'function' ? wanted : wanted(known ?? (await answered(api.GET('/api/workshop'))));
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
