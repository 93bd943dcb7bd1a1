import type { Diagnostic } from '../../api/types';
import { Later } from '../../design/Later';
import { Panel } from '../../design/Panel';
import { Advice } from '../../design/Sentence';
import { useBench } from '../BenchContext';
import { BestMove } from './BestMove';
import classes from './Bar.module.css';

const MARKS: Record<Diagnostic['severity'], string> = { problem: '✕', warning: '◆', note: '·' };
const WORDS: Record<Diagnostic['severity'], string> = { problem: 'Problem', warning: 'Warning', note: 'Note' };

/** Of the best move in two lines, px. */
const MOVE_HEIGHT = 62;

/** What to know of the formula, where it cannot be missed. */
export function AdvicePanel() {
  return (
    <Panel title="To know">
      <AdviceList />
    </Panel>
  );
}

/** What is wrong with the formula, or else what to know of it; calm when there is nothing. */
export function AdviceList() {
  const { live, explain } = useBench();
  const { freshness, problems, advice } = live;
  const isOutside = (live.preview ?? live.result)?.qualities.some((quality) => quality.outside_by > 0) ?? false;
  const isStale = freshness === 'stopped' || freshness === 'unreachable';
  return (
    <ul className={classes.advice} aria-live="polite" data-testid="advice">
      {problems.map((problem) => (
        <li key={`${problem.path}-${problem.code}`} className={`${classes.said} ${problem.is_open ? '' : classes.warning}`}>
          <Advice of={problem} />
        </li>
      ))}
      {!isStale &&
        advice.filter((one) => one.about !== 'lye').map((one) => (
          <li key={`${one.code}-${one.path}-${JSON.stringify(one.params)}`} className={`${classes.said} ${classes[one.severity]}`}>
            <span className={classes.mark} role="img" aria-label={WORDS[one.severity]}>
              {MARKS[one.severity]}
            </span>
            <Advice of={one} />{' '}
            {one.quantity && (
              <button type="button" className={classes.ask} onClick={() => explain(one.quantity ?? '')}>
                Show the explanation
              </button>
            )}
          </li>
        ))}
      {isOutside && (
        <li className={classes.move}>
          <Later height={MOVE_HEIGHT}>
            <BestMove height={MOVE_HEIGHT} />
          </Later>
        </li>
      )}
      {freshness === 'fresh' && advice.length === 0 && (
        <li className={`${classes.said} ${classes.calm}`}>
          <strong>Nothing to settle.</strong> Every scale with a target range sits in it.
        </li>
      )}
    </ul>
  );
}
