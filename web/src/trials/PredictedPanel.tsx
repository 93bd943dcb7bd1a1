import { useElementSize } from '@mantine/hooks';
import { Link } from 'react-router';

import type { PredictedJudged, TestsView } from '../api/types';
import { Panel } from '../design/Panel';
import { formatChange, formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import classes from './Trials.module.css';

const HEIGHT = 36;
const MIDDLE = 18;
const INSET = 8;

/** What was predicted of the bars of a batch, and what they were judged to be. */
export function PredictedPanel({ tests }: { tests: TestsView }) {
  const said = tests.predicted.filter((one) => one.yours !== null);
  return (
    <Panel title="Predicted and judged" aside="points; estimates">
      <p className={classes.lead}>
        <Sentence>{tests.summary}</Sentence>
      </p>
      <ul className={classes.predicted} data-testid="predicted">
        {tests.predicted.map((one) => (
          <Row key={one.quality} one={one} />
        ))}
      </ul>
      {said.length > 0 && (
        <ul className={classes.said}>
          {said.map((one) => (
            <li key={one.quality}>
              <b>{one.name}.</b> {one.yours !== null && <Sentence>{one.yours.words}</Sentence>}
            </li>
          ))}
        </ul>
      )}
      <Link to="/learning">What all your bars say, and how it came about</Link>
    </Panel>
  );
}

function Row({ one }: { one: PredictedJudged }) {
  const { ref, width: measured } = useElementSize();
  const width = Math.max(0, measured - 2 * INSET);
  const { axis_minimum: low, axis_maximum: high, target_range: range, yours } = one;
  const x = (points: number) => ((Math.min(high, Math.max(low, points)) - low) * width) / (high - low);
  const words = [
    `predicted ${formatNumber(one.predicted, 1)}`,
    one.judged === null ? 'not judged' : `judged ${formatNumber(one.judged, 1)} by ${one.sheets} sheets`,
    yours === null ? '' : `your bars ${formatNumber(yours.points, 1)}`,
  ];
  return (
    <li data-testid={`predicted-${one.quality}`}>
      <span className={classes.quality}>{one.name}</span>
      <div ref={ref}>
        <svg viewBox={`${-INSET} 0 ${Math.max(1, measured)} ${HEIGHT}`} width="100%" height={HEIGHT} role="img" aria-label={`${one.name}: ${words.filter(Boolean).join(', ')}`}>
          <line className={classes.axis} x1="0" x2={width} y1={MIDDLE} y2={MIDDLE} />
          {range !== null && <rect className={classes.target} x={x(range.minimum)} width={Math.max(x(range.maximum) - x(range.minimum), 2)} y={MIDDLE - 9} height="18" rx="3" />}
          {yours !== null && <path className={classes.yours} d={`M${x(yours.low)} ${MIDDLE + 12} H${x(yours.high)} M${x(yours.points)} ${MIDDLE + 6} v10`} />}
          <circle className={classes.rule} cx={x(one.predicted)} cy={MIDDLE} r="6" />
          {one.judged !== null && <circle className={classes.judged} cx={x(one.judged)} cy={MIDDLE} r="5" />}
        </svg>
      </div>
      <span className={classes.number}>
        {one.judged === null ? formatNumber(one.predicted, 0) : formatNumber(one.judged, 0)}
        <small>{one.judged === null ? 'predicted' : formatChange(one.judged - one.predicted, 0) || 'as predicted'}</small>
      </span>
    </li>
  );
}
