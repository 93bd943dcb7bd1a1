import { useOilsAndMaterials, useReference } from '../api/queries';
import type { SwapAnswer } from '../api/types';
import { Panel } from '../shared/Panel';
import { formatNumber } from '../shared/quantity';
import classes from './Swap.module.css';

const SHOWN = 4;

/** What the outgoing oils were doing in this blend. */
export function Jobs({ answer, names }: { answer: SwapAnswer; names: string[] }) {
  const { qualities } = useReference();
  const oils = useOilsAndMaterials();
  const title = names.length === 1 ? (oils.find((oil) => oil.id === names[0])?.name.toLowerCase() ?? 'it') : 'they';
  const jobs = answer.jobs.slice(0, SHOWN);
  const most = Math.max(...jobs.map((job) => job.of_points), 1);
  return (
    <Panel
      title={`What ${title} ${names.length === 1 ? 'was' : 'were'} doing here`}
      aside={`${formatNumber(answer.outgoing_percent, 1, 0)} % of the blend`}
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
    </Panel>
  );
}
