import { shortDate } from '../design/dates';
import classes from './Cure.module.css';
import { useCuring } from './useCure';

/** The life of the batch as one strip: what is behind it, and when the rest is expected. */
export function Life() {
  const { view } = useCuring();
  return (
    <ol className={classes.life} aria-label="The life of this batch">
      {view.life.map((stage) => (
        <li key={stage.stage} data-reached={stage.at !== null}>
          <b>{stage.name}</b>
          <span>{stage.at !== null ? `${stage.stage === 'dry' ? 'about ' : ''}${shortDate(stage.at)}` : stage.expected_at !== null ? `about ${shortDate(stage.expected_at)}` : 'to come'}</span>
        </li>
      ))}
    </ol>
  );
}
