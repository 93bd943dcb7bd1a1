import { createContext, use } from 'react';

import type { Diagnostic, OilSummary, Text } from '../api/types';
import type { Draft } from './useDraft';
import type { LiveResult } from './useResult';
import { saidOf } from '../design/units';

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
export function troubleAt(problems: Diagnostic[], field: string): { problem?: Text; offers?: Diagnostic['offers']; isOpen?: boolean } {
  const found = problemAt(problems, field);
  return found === undefined ? {} : { problem: saidOf(found), offers: found.offers, isOpen: found.is_open };
}

/** The first problem the server found at `field`. */
export function problemAt(problems: Diagnostic[], field: string): Diagnostic | undefined {
  return problems.find((problem) => problem.path === field);
}
