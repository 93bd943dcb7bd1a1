import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';

/** The curing rack: trays with what stands on them. */
export function useTrays() {
  return useQuery({ queryKey: ['trays'], queryFn: ({ signal }) => answered(api.GET('/api/trays', { signal })), refetchOnMount: 'always' });
}
