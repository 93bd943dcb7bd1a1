import { Link } from 'react-router';

import { useNextTime } from '../api/queries';
import { Told } from '../design/Sentence';
import classes from './Make.module.css';
import { useMaking } from './MakeContext';

/** Before the first step: what is doubtful is said once more. */
export function Beginning() {
  const { run, send } = useMaking();
  const nextTime = useNextTime(run.record.formula_id);
  const findings = run.work.findings.filter((finding) => finding.level !== 'note');
  const isStopped = findings.some((finding) => finding.level === 'stop');
  return (
    <article className={classes.step}>
      <h2 className={classes.heading}>Ready to make it?</h2>
      <p className={classes.text}>
        {run.work.steps.length} steps. From here on the plan stays as it is, and everything that happens is written down; it can be
        interrupted and gone on with on any device.
      </p>
      <ul className={classes.checks}>
        {nextTime.map((note) => (
          <li key={note} data-level="doubt">
            <strong>Next time, you said:</strong> {note}
          </li>
        ))}
        {findings.map((finding) => (
          <li key={finding.code + finding.headline} data-level={finding.level}>
            <strong><Told>{finding.headline}</Told></strong> <Told>{finding.remedy}</Told>
          </li>
        ))}
      </ul>
      <div className={classes.actions}>
        <button type="button" className={classes.primary} disabled={isStopped} onClick={() => void send({ kind: 'started', targets_g: {} })} data-testid="begin">
          Begin
        </button>
        <Link className={classes.big} to={`/batches/${run.record.id}`}>
          Back to the plan
        </Link>
      </div>
    </article>
  );
}
