import { useId, type ReactNode } from 'react';

import classes from './Panel.module.css';

interface PanelProps {
  title: string;
  aside?: ReactNode;
  children: ReactNode;
}

/** A titled region of a screen. */
export function Panel({ title, aside, children }: PanelProps) {
  const id = useId();
  return (
    <section className={classes.panel} aria-labelledby={id}>
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
