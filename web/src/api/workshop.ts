import { useQuery } from '@tanstack/react-query';

import { answered, api } from './client';
import type { Workshop } from './types';

/** What is known of the workshop; undefined while it is asked for. */
export function useWorkshop(): Workshop | undefined {
  return useQuery({ queryKey: ['workshop'], queryFn: () => answered(api.GET('/api/workshop')) }).data;
}
