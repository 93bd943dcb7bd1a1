import { VisuallyHidden } from '@mantine/core';
import { useElementSize } from '@mantine/hooks';

import { formatNumber } from '../../design/quantity';
import { useBench } from '../BenchContext';
import classes from './Weights.module.css';

const MIDDLE = 12;

/** Where the expected superfat may lie, against zero: calm when clear of it, alarming when it crosses. */
export function SuperfatStrip({ isStale }: { isStale: boolean }) {
  const { live, explain } = useBench();
  const { ref, width } = useElementSize();
  const lye = live.result?.lye;
  if (lye === undefined) return null;
  const { low_percent: low, high_percent: high, low_together_percent: together } = lye.superfat_interval;
  const from = Math.min(-1, low - 1);
  const to = Math.max(9, high + 1, lye.superfat_total_percent + 1);
  const x = (percent: number) => ((percent - from) * Math.max(width, 1)) / (to - from);
  const crosses = low < 0;
  const span = `${formatNumber(low, 1)} to ${formatNumber(high, 1)} %`;
  const words = crosses ? 'It reaches below zero.' : `If all lots are off at once: from ${formatNumber(together, 1)} %.`;

  return (
    <button
      type="button"
      className={`${classes.strip} ${isStale ? 'stale' : ''}`}
      onClick={() => explain('superfat_expected_percent')}
      data-testid="superfat-strip"
      data-crosses={crosses}
    >
      <span className={classes.stripHead}>
        <span>
          Expected superfat, 95 % range: <b className={crosses ? classes.alarm : ''}>{span}</b>
        </span>
        <span>
          calculated <b>{formatNumber(lye.superfat_total_percent, 1)}</b>
        </span>
        <VisuallyHidden>{words}</VisuallyHidden>
      </span>
      <div ref={ref}>
        <svg viewBox={`0 0 ${Math.max(width, 1)} 22`} aria-hidden>
          <line className={classes.axis} x1="0" x2={width} y1={MIDDLE} y2={MIDDLE} />
          <rect
            className={crosses ? classes.crossing : classes.calm}
            x={x(low)}
            width={Math.max(x(high) - x(low), 3)}
            y={MIDDLE - 6}
            height="12"
            rx="6"
          />
          <circle className={classes.nominal} cx={x(lye.superfat_total_percent)} cy={MIDDLE} r="4.5" />
          <line className={classes.zero} x1={x(0)} x2={x(0)} y1="2" y2="22" />
          <text className={classes.zeroText} x={x(0) - 5} y={MIDDLE + 4} textAnchor="end">
            0
          </text>
        </svg>
      </div>
    </button>
  );
}
