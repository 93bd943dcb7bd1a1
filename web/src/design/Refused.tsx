import { ApiFailure } from '../api/client';
import classes from './choice.module.css';
import { Advice } from './Sentence';

/** Why a question could not be answered, entry by entry, each with its remedy. */
export function Refused({ error }: { error: Error }) {
  const problems = error instanceof ApiFailure ? error.problems : [];
  return (
    <div className={classes.refused} role="alert">
      {problems.map((problem) => (
        <p key={problem.path + problem.code}>
          <Advice of={problem} />
        </p>
      ))}
      {problems.length === 0 && error.message}
    </div>
  );
}
