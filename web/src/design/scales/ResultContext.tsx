import { createContext, use } from 'react';

import type { Picture, YourBars } from '../../api/types';

/** The result that a screen's pictures draw, wherever they come from. */
export interface ShownResult {
  result: Picture | null;
  /** Where the workshop's own bars put its qualities; none while few were judged. */
  yourBars?: YourBars[];
  /** They do not belong to what is entered now. */
  isStale: boolean;
  /** Open the explanation of a quantity. */
  explain: (quantity: string) => void;
}

export const ResultContext = createContext<ShownResult | null>(null);

export function useShownResult(): ShownResult {
  const shown = use(ResultContext);
  if (shown === null) throw new Error('useShownResult outside a screen that shows result');
  return shown;
}
