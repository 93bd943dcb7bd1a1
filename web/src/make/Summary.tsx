import { Link } from 'react-router';

import { useReference } from '../api/queries';
import { useMakeAgain } from '../batch/useMakeAgain';
import { formatChange, formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import { useTemperature } from '../design/temperature';
import { useWeights } from '../design/units';
import classes from './Make.module.css';
import { useMaking } from './MakeContext';
import { PourRow } from './PourStep';
import { dayAndTimeOf } from './time';

/** What happened beside what was predicted, and what waits now. */
export function Summary() {
  const { run } = useMaking();
  const makeAgain = useMakeAgain();
  const { qualities } = useReference();
  const temperature = useTemperature();
  const weights = useWeights();
  const { planned } = run.prepared;
  const { actual, state } = run;
  const isPaste = run.prepared.process?.makes === 'paste';
  if (state.status === 'aborted') {
    return (
      <article className={classes.step}>
        <h2 className={classes.heading}>Given up</h2>
        <p className={classes.text}>{state.abort_reason}</p>
        {run.given_up.length > 0 && (
          <ul className={classes.checks} data-testid="what-stands-there">
            {run.given_up.map((words) => (
              <li key={words} data-severity="problem">{words}</li>
            ))}
          </ul>
        )}
        <p className={classes.text}>Its record stays, and notes for next time come back with the formula.</p>
        <div className={classes.actions}>
          <Link className={classes.big} to={`/formulas/${run.record.formula_id}`}>To the design</Link>
        </div>
      </article>
    );
  }
  const peak = Math.max(...state.readings.filter((one) => one.bowl === 'lye').map((one) => one.celsius), -Infinity);
  const first = (stage: string) => state.marks.find((mark) => mark.what === stage)?.at;
  const minutes = (at: string | undefined) =>
    at && state.combined_at ? `${formatNumber((new Date(at).getTime() - new Date(state.combined_at).getTime()) / 60_000, 0)} min` : '–';
  const interval = actual.result?.lye.superfat_interval;
  const rows: [string, string, string][] = [
    ['Superfat of the whole', `${formatNumber(planned.result.lye.superfat_total_percent, 1)} %`, actual.result ? `${formatNumber(actual.result.lye.superfat_total_percent, 1)} %` : '–'],
    ['Oils', weights.tell(planned.result.total_oils_g, 1), actual.result ? weights.tell(actual.result.total_oils_g, 1) : '–'],
    ['Lye concentration', `${formatNumber(planned.result.water.lye_concentration_percent, 1)} %`, actual.result ? `${formatNumber(actual.result.water.lye_concentration_percent, 1)} %` : '–'],
    ['Lye at its hottest', `about ${temperature.format(planned.lye_peak.low_c)}–${temperature.format(planned.lye_peak.high_c)} ${temperature.unit}`, Number.isFinite(peak) ? `${temperature.format(peak)} ${temperature.unit}` : '–'],
    ['Trace', planned.result.bar ? `${planned.result.bar.trace}, est.` : '–', `light after ${minutes(first('light'))}`],
  ];
  return (
    <article className={classes.step}>
      <h2 className={classes.heading}>Made</h2>
      <p className={classes.text} data-testid="waiting">
        {isPaste && <Sentence>{run.closing}</Sentence>}
        {!isPaste && run.unmould_from && run.unmould_to
          ? `Unmould between ${dayAndTimeOf(run.unmould_from)} and ${dayAndTimeOf(run.unmould_to)}, an estimate: when it is firm like cheese and lets go.`
          : !isPaste && 'It waits to be unmoulded.'}{' '}
        {run.prepared.process?.is_poured !== false && run.record.plan.formula.process.gel !== 'prevented' && state.ended_at && `Gel, if it comes, from about ${formatNumber(run.gel_onset_hours, 1)} h after pouring.`}
      </p>
      <div className={classes.actions}>
        <Link className={classes.primary} to={`/batches/${run.record.id}/cure`} data-testid="to-cure">
          {isPaste ? 'Its rest' : 'Unmould, cut and cure'}
        </Link>
      </div>
      <table className={classes.compare}>
        <thead>
          <tr>
            <td />
            <th>planned</th>
            <th>made</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, plan, done]) => (
            <tr key={name}>
              <td>{name}</td>
              <td>{plan}</td>
              <td>{done}</td>
            </tr>
          ))}
          {actual.result?.qualities.map((quantity) => {
            const was = planned.result.qualities.find((one) => one.quality === quantity.quality);
            return (
              <tr key={quantity.quality}>
                <td>{qualities.find((one) => one.id === quantity.quality)?.name}</td>
                <td>{was ? formatNumber(was.points, 1) : '–'}</td>
                <td>
                  {formatNumber(quantity.points, 1)} <small>{was && formatChange(quantity.points - was.points, 1)}</small>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {interval && (
        <p className={classes.text}>
          Expected superfat as weighed {formatNumber(interval.middle_percent, 1)} %, 95 % range {formatNumber(interval.low_percent, 1)} to{' '}
          {formatNumber(interval.high_percent, 1)} %.
        </p>
      )}
      <div className={classes.pours}>
        {planned.moulds.map((fill, i) => (
          <PourRow key={`${fill.name}-${i}`} index={i} isCurrent />
        ))}
      </div>
      <div className={classes.actions}>
        <button type="button" className={classes.big} onClick={() => void makeAgain(run.record.id)} data-testid="make-again">
          Make again
        </button>
        <Link className={classes.big} to="/batches">To the batches</Link>
        <Link className={classes.big} to={`/formulas/${run.record.formula_id}`}>To the design</Link>
      </div>
    </article>
  );
}
