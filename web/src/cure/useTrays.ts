import { keepPreviousData, useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';

/** The curing rack: trays with what stands on them now, or with what will still stand on them at a time to come. */
export function useTrays(on: string | null = null) {
  return useQuery({
    queryKey: ['trays', on],
    queryFn: ({ signal }) => answered(api.GET('/api/trays', { params: { query: on === null ? {} : { on } }, signal })),
    refetchOnMount: 'always',
    placeholderData: keepPreviousData,
  });
}
