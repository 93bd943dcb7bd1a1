import { useNextTime } from '../api/queries';
import type { Finding } from '../api/types';
import { Panel } from '../design/Panel';
import { Told } from '../design/Sentence';
import classes from './Batch.module.css';
import { useBatch } from './BatchContext';

const WORDS: Record<Finding['level'], string> = { stop: '✕ stop', doubt: '◐ look again', risk: '△ risk', note: 'note' };

/** Whether all is ready: what is missing, what is doubtful, what this way of making it risks. */
export function ReadyPanel() {
  const { draft, work, isStale, problems } = useBatch();
  const nextTime = useNextTime(draft.plan.formula_id);
  const findings = work?.findings ?? [];
  const serious = findings.filter((finding) => finding.level !== 'note').length;
  let aside = 'nothing stands in the way';
  if (problems.length > 0) aside = `${problems.length} to enter or correct`;
  else if (serious > 0) aside = `${serious} to look at`;
  return (
    <Panel title="Ready?" aside={aside} yieldsTo={120}>
      {/* eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- what scrolls must be reached by keyboard */}
      <div className={classes.findings} tabIndex={0} role="group" aria-label="Is it ready?">
        <ul data-testid="readiness">
        {nextTime.map((note) => (
          <li key={note} data-level="doubt" data-testid="next-time-note">
            <span className={classes.level}>next time</span>
            <strong>{note}</strong>
          </li>
        ))}
        {problems.map((problem) => (
          <li key={problem.field + problem.code} data-level="stop">
            <strong><Told>{problem.message}</Told></strong> <Told>{problem.remedy}</Told>
          </li>
        ))}
        {problems.length === 0 &&
          findings.map((finding) => (
            <li key={finding.code + finding.headline} data-level={finding.level} className={isStale ? 'stale' : ''}>
              <span className={classes.level}>{WORDS[finding.level]}</span>
              <strong><Told>{finding.headline}</Told></strong> <Told>{finding.remedy}</Told>
            </li>
          ))}
        </ul>
      </div>
    </Panel>
  );
}
