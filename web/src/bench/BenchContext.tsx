import { createContext, use } from 'react';

import type { OilSummary, Problem } from '../api/types';
import type { Draft } from './useDraft';
import type { LiveResult } from './useResult';

export interface BenchState {
  draft: Draft;
  live: LiveResult;
  oils: Map<string, OilSummary>;
  /** Open the explanation of a quantity. */
  explain: (quantity: string) => void;
}

export const BenchContext = createContext<BenchState | null>(null);

export function useBench(): BenchState {
  const bench = use(BenchContext);
  if (bench === null) throw new Error('useBench outside the bench');
  return bench;
}

/** What a NumberField needs to say of the first problem at `field`. */
export function troubleAt(problems: Problem[], field: string): { problem?: string; offers?: Problem['offers'] } {
  const found = problemAt(problems, field);
  return found === undefined ? {} : { problem: `${found.message} ${found.remedy}`, offers: found.offers };
}

/** The first problem the server found at `field`. */
export function problemAt(problems: Problem[], field: string): Problem | undefined {
  return problems.find((problem) => problem.field === field);
}
