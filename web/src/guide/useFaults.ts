import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import type { Symptom } from '../api/types';

const NONE: Symptom[] = [];

/** Everything that may be seen, by where it is seen. */
export function useSymptoms(): Symptom[] {
  const { data } = useQuery({ queryKey: ['symptoms'], queryFn: () => answered(api.GET('/api/faults')), staleTime: Number.POSITIVE_INFINITY });
  return data ?? NONE;
}
