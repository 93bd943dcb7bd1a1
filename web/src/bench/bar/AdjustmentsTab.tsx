import { useReference } from '../../api/queries';
import { formatChange } from '../../design/quantity';
import { Sentence } from '../../design/Sentence';
import { useBench } from '../BenchContext';
import classes from './Bar.module.css';

/** What acts beside the fatty acids, each kept apart with its size and reason. */
export function EffectsTab() {
  const { live } = useBench();
  const { qualities } = useReference();
  const { result, freshness } = live;
  const isStale = freshness === 'stopped' || freshness === 'unreachable';
  const name = (on: string) =>
    qualities.find((quality) => quality.id === on)?.name.toLowerCase() ?? on.replaceAll('_', ' ').replace('unmould', 'unmoulding');
  if (result === null || result.adjustments.length === 0) {
    return (
      <p className={classes.calmText}>
        Nothing acts beside the fatty acids: superfat and water are the usual ones, and nothing is added.
      </p>
    );
  }
  return (
    <ul
      className={`${classes.effects} ${isStale ? 'stale' : ''}`}
      aria-label="Effects beside the fatty acids, estimates"
      // It scrolls, so the keyboard must reach it.
      // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
      tabIndex={0}
    >
      {result.adjustments.map((adjustment) => (
        <li key={adjustment.id}>
          <strong>{adjustment.name}</strong> <span><Sentence>{adjustment.state}</Sentence>.</span> {adjustment.reason}{' '}
          {adjustment.effects.map((effect) => (
            <b key={effect.on}>
              {name(effect.on)} {formatChange(effect.points, 1)}
            </b>
          ))}
        </li>
      ))}
    </ul>
  );
}
