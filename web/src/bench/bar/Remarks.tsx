import { Told } from '../../shared/Told';
import { useBench } from '../BenchContext';
import classes from './Bar.module.css';

const MARKS = { danger: '✕', watch: '◆', note: '·' } as const;
const WORDS = { danger: 'Danger', watch: 'Watch', note: 'Note' } as const;

/** What is wrong with the formula, or else what the rules found; calm when there is nothing. */
export function Remarks() {
  const { live, explain } = useBench();
  const { figures, freshness, problems } = live;
  const isStale = freshness === 'stopped' || freshness === 'unreachable';
  return (
    <ul className={classes.remarks} aria-live="polite" data-testid="remarks">
      {problems
        .filter((problem) => problem.severity !== 'unsafe')
        .map((problem) => (
          <li key={`${problem.field}-${problem.code}`} className={`${classes.remark} ${classes.watch}`}>
            <strong><Told>{problem.message}</Told></strong> <Told>{problem.remedy}</Told>
          </li>
        ))}
      {!isStale &&
        figures?.cautions
          .filter((caution) => caution.severity === 'caution')
          .map((caution) => (
            <li key={`${caution.field}-${caution.code}`} className={`${classes.remark} ${classes.watch}`}>
              <strong><Told>{caution.message}</Told></strong> <Told>{caution.remedy}</Told>
            </li>
          ))}
      {!isStale &&
        figures?.remarks.map((remark) => (
          <li key={`${remark.code}-${remark.headline}`} className={`${classes.remark} ${classes[remark.severity]}`}>
            <span className={classes.mark} role="img" aria-label={WORDS[remark.severity]}>
              {MARKS[remark.severity]}
            </span>
            <strong><Told>{remark.headline}</Told></strong> <Told>{`${remark.reason} ${remark.remedy}`}</Told>{' '}
            {remark.figure && (
              <button type="button" className={classes.ask} onClick={() => explain(remark.figure ?? '')}>
                Show the working
              </button>
            )}
          </li>
        ))}
      {freshness === 'fresh' && figures?.remarks.length === 0 && (
        <li className={`${classes.remark} ${classes.calm}`}>
          <strong>Nothing stands out.</strong> Every track with a band sits in it.
        </li>
      )}
    </ul>
  );
}
