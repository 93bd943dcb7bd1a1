import { useId, type ReactNode } from 'react';

import classes from './Panel.module.css';
import { TermMark } from './TermMark';

interface PanelProps {
  title: string;
  aside?: ReactNode;
  /** Word of the glossary that the title is. */
  term?: string;
  children: ReactNode;
}

/** A titled region of a screen. */
export function Panel({ title, aside, term, children }: PanelProps) {
  const id = useId();
  return (
    <section className={classes.panel} aria-labelledby={id}>
      <header className={classes.head}>
        <h2 id={id} className={classes.title}>
          {title}
        </h2>
        {term !== undefined && <TermMark term={term} />}
        {aside !== undefined && <div className={classes.aside}>{aside}</div>}
      </header>
      {children}
    </section>
  );
}
