import { VisuallyHidden } from '@mantine/core';

import classes from './Pending.module.css';

/** Stands where a screen will be: its shape at once, so that nothing jumps when it comes. */
export function Pending() {
  return (
    <div className={classes.page} role="status" data-testid="pending">
      <VisuallyHidden>Opening …</VisuallyHidden>
      <span className={classes.title} />
      <span className={classes.panel} />
      <span className={classes.panel} />
      <span className={classes.panel} />
    </div>
  );
}
