import type { ReactNode } from 'react';

import { useBench } from '../BenchContext';
import classes from './Bar.module.css';

/** One quantity on a tile that opens its explanation. */
export function Reading({ label, quantity, children }: { label: string; quantity: string; children: ReactNode }) {
  const { explain } = useBench();
  return (
    <button
      type="button"
      className={`${classes.index} hatched`}
      onClick={() => explain(quantity)}
      data-testid={`reading-${quantity}`}
    >
      <span className={classes.label}>{label}</span>
      <span className={classes.value}>{children}</span>
    </button>
  );
}
