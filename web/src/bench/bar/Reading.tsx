import type { ReactNode } from 'react';

import { useBench } from '../BenchContext';
import classes from './Bar.module.css';

/** One figure on a tile that opens its working. */
export function Reading({ label, figure, children }: { label: string; figure: string; children: ReactNode }) {
  const { explain } = useBench();
  return (
    <button
      type="button"
      className={`${classes.reading} hatched`}
      onClick={() => explain(figure)}
      data-testid={`reading-${figure}`}
    >
      <span className={classes.label}>{label}</span>
      <span className={classes.value}>{children}</span>
    </button>
  );
}
