import { NavLink } from 'react-router';

import classes from './Stages.module.css';

export interface Stage {
  to: string;
  label: string;
  /** Only the address itself counts, not what lies below it. */
  end?: boolean;
}

/** The stages of one formula or one batch, under its name; on a narrow screen they scroll sideways. */
export function Stages({ label, stages }: { label: string; stages: Stage[] }) {
  return (
    <nav className={classes.stages} aria-label={label}>
      {stages.map((stage) => (
        <NavLink key={stage.to} to={stage.to} end={stage.end}>
          {stage.label}
        </NavLink>
      ))}
    </nav>
  );
}
