import { Told } from '../../design/Sentence';
import { useBench } from '../BenchContext';
import classes from './Bar.module.css';

const MARKS = { danger: '✕', watch: '◆', note: '·' } as const;
const WORDS = { danger: 'Danger', watch: 'Watch', note: 'Note' } as const;

/** What is wrong with the formula, or else what the rules found; calm when there is nothing. */
export function Remarks() {
  const { live, explain } = useBench();
  const { result, freshness, problems } = live;
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
        result?.cautions
          .filter((caution) => caution.severity === 'caution')
          .map((caution) => (
            <li key={`${caution.field}-${caution.code}`} className={`${classes.remark} ${classes.watch}`}>
              <strong><Told>{caution.message}</Told></strong> <Told>{caution.remedy}</Told>
            </li>
          ))}
      {!isStale &&
        result?.remarks.map((remark) => (
          <li key={`${remark.code}-${remark.headline}`} className={`${classes.remark} ${classes[remark.severity]}`}>
            <span className={classes.mark} role="img" aria-label={WORDS[remark.severity]}>
              {MARKS[remark.severity]}
            </span>
            <strong><Told>{remark.headline}</Told></strong> <Told>{`${remark.reason} ${remark.remedy}`}</Told>{' '}
            {remark.quantity && (
              <button type="button" className={classes.ask} onClick={() => explain(remark.quantity ?? '')}>
                Show the explanation
              </button>
            )}
          </li>
        ))}
      {freshness === 'fresh' && result?.remarks.length === 0 && (
        <li className={`${classes.remark} ${classes.calm}`}>
          <strong>Nothing stands out.</strong> Every scale with a target range sits in it.
        </li>
      )}
    </ul>
  );
}
