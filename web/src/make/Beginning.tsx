import { Link } from 'react-router';

import { useNextTime } from '../api/queries';
import { Advice } from '../design/Sentence';
import classes from './Make.module.css';
import { useMaking } from './MakeContext';

/** Before the first step: what is doubtful is said once more. */
export function Beginning() {
  const { run, send } = useMaking();
  const nextTime = useNextTime(run.record.formula_id);
  const found = run.prepared.diagnostics.filter((one) => one.severity !== 'note');
  const isForbidden = found.some((one) => one.stops !== '');
  return (
    <article className={classes.step}>
      <h2 className={classes.heading}>Ready to make it?</h2>
      <p className={classes.text}>
        {run.prepared.steps.length} steps. From here on the plan stays as it is, and everything that happens is written down; it can be
        interrupted and gone on with on any device.
      </p>
      <ul className={classes.checks}>
        {nextTime.map((note) => (
          <li key={note} data-severity="warning">
            <strong>Next time, you said:</strong> {note}
          </li>
        ))}
        {found.map((one) => (
          <li key={one.code + one.path + JSON.stringify(one.params)} data-severity={one.severity}>
            <Advice of={one} />
          </li>
        ))}
      </ul>
      <div className={classes.actions}>
        <button type="button" className={classes.primary} disabled={isForbidden} onClick={() => void send({ kind: 'started', targets_g: {}, plan_revision: run.record.revision })} data-testid="begin">
          Begin
        </button>
        <Link className={classes.big} to={`/batches/${run.record.id}`}>
          Back to the plan
        </Link>
      </div>
    </article>
  );
}
