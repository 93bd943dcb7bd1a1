import type { ReactNode } from 'react';

import { Panel } from '../shared/Panel';
import { formatNumber } from '../shared/quantity';
import { useSettings } from '../shared/settings';
import { useBench } from './BenchContext';
import classes from './ReadingsPanel.module.css';

/** Quick readings, and in words what stands out. */
export function ReadingsPanel() {
  const { live, explain } = useBench();
  const { weightUnit } = useSettings();
  const { figures, freshness, problems } = live;
  const isStale = freshness === 'stopped' || freshness === 'unreachable';
  const readings = figures?.readings;
  const whole = (value: number | undefined) => (value === undefined ? '–' : formatNumber(value, 0));

  return (
    <Panel title="Readings" yields aside="estimates · touch one for its working">
      <div className={`${classes.readings} ${isStale ? 'stale' : ''}`}>
        <Reading label="Saturated : unsat." figure="saturated_percent">
          {whole(readings?.saturated_percent)} : {whole(readings?.unsaturated_percent)}
        </Reading>
        <Reading label="Iodine value" figure="iodine_value">
          {whole(readings?.iodine_value)}
        </Reading>
        <Reading label="INS (secondary)" figure="ins">
          {whole(readings?.ins)}
        </Reading>
        <Reading label="Hard : soft oils" figure="hard_percent">
          {whole(readings?.hard_percent)} : {whole(readings?.soft_percent)}
        </Reading>
        <Reading label="SAP of the blend" figure="sap_koh_mg_per_g">
          {readings === undefined ? '–' : formatNumber(readings.sap_koh_mg_per_g, 1)}
        </Reading>
        <Reading label="Batter" figure="batter_g">
          {figures === null ? '–' : formatNumber(figures.weighing.batter, figures.weighing.decimals)}
          <span> {weightUnit.id}</span>
        </Reading>
      </div>
      <ul className={classes.remarks} aria-live="polite">
        {problems
          .filter((problem) => problem.severity !== 'unsafe')
          .map((problem) => (
            <li key={`${problem.field}-${problem.code}`} className={classes.remark}>
              <strong>{problem.message}</strong> {problem.remedy}
            </li>
          ))}
        {!isStale &&
          figures?.remarks.map((remark) => (
            <li key={`${remark.code}-${remark.quality}`} className={classes.remark}>
              <strong>{remark.headline}</strong> {remark.detail}{' '}
              {remark.quality && (
                <button type="button" className={classes.ask} onClick={() => explain(remark.quality ?? '')}>
                  Show the working
                </button>
              )}
            </li>
          ))}
        {freshness === 'fresh' && figures?.remarks.length === 0 && (
          <li className={`${classes.remark} ${classes.calm}`}>
            <strong>Every track sits in its band.</strong> The points leave out superfat, water and cure, which act
            beside them.
          </li>
        )}
      </ul>
    </Panel>
  );
}

function Reading({ label, figure, children }: { label: string; figure: string; children: ReactNode }) {
  const { explain } = useBench();
  return (
    <button type="button" className={`${classes.reading} hatched`} onClick={() => explain(figure)} data-testid={`reading-${figure}`}>
      <span className={classes.label}>{label}</span>
      <span className={classes.value}>{children}</span>
    </button>
  );
}
