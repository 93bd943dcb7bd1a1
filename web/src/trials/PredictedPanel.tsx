import { Link } from 'react-router';

import type { PredictedJudged, TestsView } from '../api/types';
import { Panel } from '../design/Panel';
import { formatChange, formatNumber } from '../design/quantity';
import { Scale } from '../design/scales/Scale';
import { Sentence } from '../design/Sentence';
import classes from './Trials.module.css';

const HEIGHT = 40;

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
  const { yours, judged } = one;
  const words = [
    `predicted ${formatNumber(one.predicted, 1)}`,
    judged === null ? 'not judged' : `judged ${formatNumber(judged, 1)} by ${one.sheets} sheets`,
    yours === null ? '' : `your bars ${formatNumber(yours.points, 1)}`,
  ];
  return (
    <li data-testid={`predicted-${one.quality}`}>
      <span className={classes.quality}>{one.name}</span>
      <Scale
        low={one.axis_minimum}
        high={one.axis_maximum}
        height={HEIGHT}
        range={one.target_range}
        yours={yours ?? undefined}
        marks={[{ at: one.predicted, shape: 'disc', tone: 'hollow' }, ...(judged === null ? [] : [{ at: judged, shape: 'disc', tone: 'filled' } as const])]}
        role="img"
        aria-label={`${one.name}: ${words.filter(Boolean).join(', ')}`}
      />
      <span className={classes.number}>
        {formatNumber(judged ?? one.predicted, 0)}
        <small>{judged === null ? 'predicted' : formatChange(judged - one.predicted, 0) || 'as predicted'}</small>
      </span>
    </li>
  );
}
