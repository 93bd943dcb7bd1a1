import { useState } from 'react';

import { useOilsAndMaterials, useReference } from '../api/queries';
import type { SwapAnswer } from '../api/types';
import { NumberField } from '../design/NumberField';
import { Panel } from '../design/Panel';
import { useWeights } from '../design/units';
import { formatNumber, parseNumber } from '../design/quantity';
import type { Asked } from './question';
import classes from './Swap.module.css';

const SHOWN = 4;

interface JobsProps {
  answer: SwapAnswer;
  outgoing: Asked['outgoing'];
  /** Cut an oil down to a share instead of taking it out. */
  onKeep: (oil: string, percent: number) => void;
}

/** What the outgoing oils were doing in this blend. */
export function Jobs({ answer, outgoing, onKeep }: JobsProps) {
  const { qualities } = useReference();
  const oils = useOilsAndMaterials();
  const weights = useWeights();
  const names = outgoing.map((out) => out.oil);
  const nameOf = (id: string) => oils.find((oil) => oil.id === id)?.name ?? id;
  const [unread, setUnread] = useState<Record<string, string | undefined>>({});
  const title = names.length === 1 ? (oils.find((oil) => oil.id === names[0])?.name.toLowerCase() ?? 'it') : 'they';
  const jobs = answer.jobs.slice(0, SHOWN);
  const most = Math.max(...jobs.map((job) => job.of_points), 1);
  return (
    <Panel
      title={`What ${title} ${names.length === 1 ? 'was' : 'were'} doing here`}
      aside={`${formatNumber(answer.outgoing_percent, 1, 0)} % of the blend, ${weights.tell(answer.outgoing_g, 0)}`}
    >
      <ul className={classes.jobs} aria-label="Jobs of what goes out">
        {jobs.map((job) => (
          <li key={job.quality}>
            <span>{qualities.find((quality) => quality.id === job.quality)?.name}</span>
            <svg viewBox="0 0 100 12" preserveAspectRatio="none" aria-hidden>
              <rect className={classes.whole} width={(100 * job.of_points) / most} height="12" />
              <rect className={classes.given} width={(100 * job.points) / most} height="12" />
            </svg>
            <b>
              {formatNumber(job.points, 1)} <small>of {formatNumber(job.of_points, 0)}</small>
            </b>
          </li>
        ))}
      </ul>
      <div className={classes.keeps}>
        {outgoing.map((out) => (
          <div key={out.oil}>
            <span>Keep of {nameOf(out.oil).toLowerCase()}</span>
            <NumberField
              label={`Keep of ${nameOf(out.oil)}, percent of the blend`}
              value={out.keep_percent}
              unit="%"
              step={1}
              format={(value) => formatNumber(value, 1, 0)}
              parse={parseNumber}
              unread={unread[out.oil]}
              onUnread={(text) => setUnread((now) => ({ ...now, [out.oil]: text ?? undefined }))}
              onChange={(percent) => onKeep(out.oil, percent ?? 0)}
              testId={`keep-${out.oil}`}
            />
          </div>
        ))}
      </div>
    </Panel>
  );
}
