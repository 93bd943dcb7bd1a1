import { useElementSize } from '@mantine/hooks';

import type { Criterion, TrialResult } from '../api/types';
import { formatNumber } from '../design/quantity';
import classes from './Trials.module.css';

const HEIGHT = 170;
const TOP = 10;
const BOTTOM = 36;
const LEFT = 78;
const LAST = 5;

/** How each test batch did, with its 95 % range; the words of the criterion stand at the side. */
export function TrialPicture({ result, criterion, here = null }: { result: TrialResult; criterion: Criterion; here?: number | null }) {
  const { ref, width } = useElementSize();
  const judged = result.runs.filter((run) => run.sheets > 0);
  const y = (score: number) => TOP + ((LAST - score) / (LAST - 1)) * (HEIGHT - TOP - BOTTOM);
  const x = (i: number) => LEFT + ((i + 0.5) / judged.length) * Math.max(width - LEFT, 1);
  const room = Math.max(width - LEFT, 1) / Math.max(judged.length, 1);
  return (
    <div ref={ref} className={classes.picture}>
      <svg width={width} height={HEIGHT} role="img" aria-label={judged.map((run) => `${run.label}: ${formatNumber(run.score, 1)}, ${formatNumber(run.low, 1)} to ${formatNumber(run.high, 1)}`).join('; ')}>
        {criterion.words.map((word, i) => (
          <g key={word}>
            <line className={classes.axis} x1={LEFT} x2={width} y1={y(i + 1)} y2={y(i + 1)} />
            <text className={classes.tick} x={LEFT - 8} y={y(i + 1) + 4} textAnchor="end">
              {word}
            </text>
          </g>
        ))}
        {judged.map((run, i) => (
          <g key={run.run}>
            <line className={classes.interval} x1={x(i)} x2={x(i)} y1={y(run.low)} y2={y(run.high)} />
            <circle className={classes.run} cx={x(i)} cy={y(run.score)} r="6" />
            <text className={classes.tick} x={x(i)} y={HEIGHT - 16} textAnchor="middle" data-here={run.run === here}>
              {fitted(run.label, room)}
            </text>
            <text className={classes.tick} x={x(i)} y={HEIGHT - 2} textAnchor="middle">
              {run.sheets === 1 ? '1 sheet' : `${run.sheets} sheets`}
            </text>
          </g>
        ))}
      </svg>
    </div>
  );
}

/** A label as far as there is room; the table below has all of it. */
function fitted(label: string, room: number): string {
  const most = Math.max(4, Math.floor(room / 6.5));
  return label.length <= most ? label : `${label.slice(0, most - 1)}…`;
}
