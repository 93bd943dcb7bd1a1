import { VisuallyHidden } from '@mantine/core';

import { formatNumber } from '../../design/quantity';
import { Scale } from '../../design/scales/Scale';
import { useBench } from '../BenchContext';
import classes from './Weights.module.css';

/** Where the expected superfat may lie, against zero: calm when clear of it, alarming when it crosses. */
export function SuperfatStrip({ isStale }: { isStale: boolean }) {
  const { live, explain } = useBench();
  const lye = live.result?.lye;
  if (lye === undefined) return null;
  const { low_percent: low, high_percent: high, low_together_percent: together } = lye.superfat_interval;
  const from = Math.min(-1, low - 1);
  const to = Math.max(9, high + 1, lye.superfat_total_percent + 1);
  const crosses = low < 0;
  const span = `${formatNumber(low, 1)} to ${formatNumber(high, 1)} %`;
  const words = crosses ? 'It reaches below zero.' : together != null && `If all lots are off at once: from ${formatNumber(together, 1)} %.`;

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
      <Scale
        low={from}
        high={to}
        height={22}
        middle={12}
        capsule={{ low, high, isAlarming: crosses }}
        marks={[{ at: lye.superfat_total_percent, shape: 'disc', tone: 'filled' }]}
        line={{ at: 0, tone: 'caustic', text: '0' }}
        aria-hidden
      />
    </button>
  );
}
