import { useId, type ReactNode } from 'react';

import classes from './Panel.module.css';

interface PanelProps {
  title: string;
  aside?: ReactNode;
  /** Shrinks when its column is full; something inside must scroll. */
  yields?: boolean;
  children: ReactNode;
}

/** A titled region of a screen. */
export function Panel({ title, aside, yields = false, children }: PanelProps) {
  const id = useId();
  return (
    <section className={`${classes.panel} ${yields ? classes.yields : ''}`} aria-labelledby={id}>
      <header className={classes.head}>
        <h2 id={id} className={classes.title}>
          {title}
        </h2>
        {aside !== undefined && <div className={classes.aside}>{aside}</div>}
      </header>
      {children}
    </section>
  );
}
