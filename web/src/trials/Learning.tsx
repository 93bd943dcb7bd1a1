import { useDocumentTitle, useElementSize } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import { answered, api } from '../api/client';
import { useReference } from '../api/queries';
import type { TopicHeld } from '../api/types';
import { Missing } from '../app/Missing';
import { Pending } from '../app/Pending';
import columns from '../design/columns.module.css';
import heads from '../design/heads.module.css';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import { useTemperature } from '../design/temperature';
import { LearningSwitch } from './LearningSwitch';
import classes from './Trials.module.css';

/** What this workshop's bars say of the rules, and how predictions have held. */
export function Learning() {
  const { data: learning, error } = useQuery({ queryKey: ['learning'], queryFn: () => answered(api.GET('/api/learning')), refetchOnMount: 'always' });
  useDocumentTitle('What your bars say · Sapolin');
  if (error !== null && learning === undefined) return <Missing title="This cannot be shown" message={error.message} />;
  if (!learning) return <Pending />;
  const names = new Map(learning.topics.map((one) => [one.topic, one.name]));
  return (
    <div className={columns.page}>
      <div className={heads.top}>
        <h1>What your bars say</h1>
        <LearningSwitch size="md" label="Forecasts and scales go by it" isUsed={learning.is_used} />
      </div>
      <div className={heads.sides}>
        <Panel title="How predictions held" aside="what was predicted before, what was seen after">
          <p className={classes.lead} data-testid="held">
            <Sentence>{learning.words}</Sentence>
          </p>
          <div className={classes.plots}>
            {learning.held.map((one) => (
              <Plot key={one.topic} one={one} name={names.get(one.topic) ?? one.topic} />
            ))}
          </div>
          {learning.held.length > 0 && <p className="muted">Each dot is one batch, its line the range that was predicted for eight in ten. Hollow: what was seen lies outside. On the slope, seen and predicted are equal.</p>}
        </Panel>
        <div className={columns.column}>
          <Panel title="What was learned" aside="shrunk toward the rule while batches are few">
            <dl className={classes.topics} data-testid="topics">
              {learning.topics.map((one) => (
                <div key={one.topic} data-clear={one.is_clear}>
                  <dt>{one.name}</dt>
                  <dd>
                    <Sentence>{one.words}</Sentence>
                  </dd>
                </div>
              ))}
            </dl>
            {learning.testers.map((words, i) => (
              <p key={i} className={classes.lead}>
                <Sentence>{words}</Sentence>
              </p>
            ))}
          </Panel>
          <Panel title="How it came about">
            <p className={classes.lead}>
              Each batch says how far it lies off a rule of thumb. Batches of one workshop share a part of that; the rest is chance. Few batches move the rule little, many move it far, and none moves it more than they agree on. Bars that were judged count with their tester and their age.
            </p>
            <p className={classes.lead}>
              To teach more: weigh two to four marked bars of each batch, press the loaf now and then, note light trace, and judge bars on their stage Tests. <Link to="/batches">Batches</Link>
            </p>
          </Panel>
        </div>
      </div>
    </div>
  );
}

const SIZE = 200;
const EDGE = 34;

function Plot({ one, name }: { one: TopicHeld; name: string }) {
  const { ref, width } = useElementSize();
  const temperature = useTemperature();
  const { qualities } = useReference();
  const isWarmth = one.unit === '°C';
  const isTime = one.unit === 'h' || one.unit === 'min' || one.unit === 'days';
  const scale = (value: number) => (isWarmth && temperature.letter === 'F' ? value * 1.8 + 32 : value);
  // Times lie far apart: they are drawn by their logarithm.
  const place = (value: number) => (isTime ? Math.log(Math.max(value, 0.1)) : scale(value));
  const values = one.held.flatMap((batch) => [batch.low, batch.high, batch.seen]).map(place);
  const low = Math.min(...values);
  const high = Math.max(...values, low + 1e-6);
  const room = Math.max(width - EDGE - 8, 1);
  const x = (value: number) => EDGE + ((place(value) - low) / (high - low)) * room;
  const y = (value: number) => SIZE - EDGE + 8 - ((place(value) - low) / (high - low)) * (SIZE - EDGE - 6);
  const ends = [low, high].map((value) => (isTime ? Math.exp(value) : value));
  const decimals = (ends[1] ?? 0) - (ends[0] ?? 0) < 5 ? 1 : 0;
  const unit = isWarmth ? temperature.unit : one.unit;
  const title = qualities.find((quality) => quality.id === one.topic)?.name ?? name;
  return (
    <figure className={classes.plot} ref={ref}>
      <figcaption>
        <b>{title}</b>, {unit}{' '}
        <small>
          {one.inside} of {one.total} inside
        </small>
      </figcaption>
      <svg width={width} height={SIZE} role="img" aria-label={`${title}: ${one.held.map((batch) => `${batch.code} predicted ${formatNumber(scale(batch.predicted), decimals)}, seen ${formatNumber(scale(batch.seen), decimals)}`).join('; ')}`}>
        <line className={classes.axis} x1={EDGE} x2={EDGE + room} y1={SIZE - EDGE + 8} y2={2} />
        {one.held.map((batch) => (
          <g key={batch.batch_id}>
            <line className={classes.interval} x1={x(batch.low)} x2={x(batch.high)} y1={y(batch.seen)} y2={y(batch.seen)} />
            <circle className={batch.is_inside ? classes.run : classes.outside} cx={x(batch.predicted)} cy={y(batch.seen)} r="4.5">
              <title>{batch.code}</title>
            </circle>
          </g>
        ))}
        <text className={classes.tick} x={EDGE} y={SIZE - 12}>
          {formatNumber(ends[0] ?? 0, decimals)}
        </text>
        <text className={classes.tick} x={EDGE + room} y={SIZE - 12} textAnchor="end">
          {formatNumber(ends[1] ?? 0, decimals)} predicted
        </text>
        <text className={classes.tick} x={EDGE - 6} y={14} textAnchor="end">
          seen
        </text>
      </svg>
    </figure>
  );
}
