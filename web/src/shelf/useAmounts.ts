import type { Lot } from '../api/types';
import { formatNumber } from '../design/quantity';
import { useWeights } from '../design/units';

/** Amounts of a material as the maker reads them: pieces of packaging, weights of all else. */
export function useAmounts(kind: Lot['kind']): { tell: (amount: number) => string; price: (per1000: number) => string } {
  const weights = useWeights();
  if (kind !== 'packaging') return { tell: (grams) => weights.tell(grams), price: (perKg) => `${formatNumber(perKg, 2)} per kg` };
  return { tell: (pieces) => `${formatNumber(pieces, 0)} pcs`, price: (per1000) => `${formatNumber(per1000 / 1000, 3)} each` };
}
