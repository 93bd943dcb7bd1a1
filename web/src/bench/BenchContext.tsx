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
export function troubleAt(problems: Diagnostic[], field: string): { problem?: Text; offers?: Diagnostic['offers'] } {
  const found = problemAt(problems, field);
  return found === undefined ? {} : { problem: saidOf(found), offers: found.offers };
}

/** Whether an entry makes the lye itself one that must not be used so; it is said in the place of the lye. */
export function isAboutTheLye(one: Diagnostic): boolean {
  return one.stops === 'making' && one.path !== '';
}

/** Whether shares sum to more or less than 100 %. */
export function isAboutTheSum(one: Diagnostic): boolean {
  return one.code === 'sum_not_100' || one.code === 'sum_over_100';
}

/** The first problem the server found at `field`. */
export function problemAt(problems: Diagnostic[], field: string): Diagnostic | undefined {
  return problems.find((problem) => problem.path === field);
}
