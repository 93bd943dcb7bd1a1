import { createContext, use } from 'react';

import type { Reckoning } from '../../api/types';

/** The figures that a screen's pictures draw, wherever they come from. */
export interface ShownFigures {
  figures: Reckoning | null;
  /** They do not belong to what is entered now. */
  isStale: boolean;
  /** Open the working of a figure. */
  explain: (figure: string) => void;
}

export const FiguresContext = createContext<ShownFigures | null>(null);

export function useFigures(): ShownFigures {
  const shown = use(FiguresContext);
  if (shown === null) throw new Error('useFigures outside a screen that shows figures');
  return shown;
}
