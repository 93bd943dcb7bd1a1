import { ApiFailure } from '../api/client';
import classes from './choice.module.css';
import { Told } from './Sentence';

/** Why a question could not be answered, entry by entry, each with its way out. */
export function Refused({ error }: { error: Error }) {
  const problems = error instanceof ApiFailure ? error.problems : [];
  return (
    <div className={classes.refused} role="alert">
      {problems.map((problem) => (
        <p key={problem.field + problem.code}>
          <strong><Told>{problem.message}</Told></strong> <Told>{problem.remedy}</Told>
        </p>
      ))}
      {problems.length === 0 && error.message}
    </div>
  );
}
