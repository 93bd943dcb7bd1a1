import { Link } from 'react-router';

import type { TrialBrief } from '../api/types';
import { Panel } from '../design/Panel';
import { Sentence } from '../design/Sentence';
import { TrialPicture } from './TrialPicture';
import classes from './Trials.module.css';

/** The trials that a batch, or a formula, belongs to. */
export function TrialsPanel({ trials, formulaId }: { trials: TrialBrief[]; formulaId: string }) {
  return (
    <Panel title="Trials" aside="sets of test batches">
      {trials.length === 0 && (
        <p className="muted">
          This batch is no part of a trial. <Link to={`/formulas/${formulaId}/compare`}>Draw one up</Link>: one oil at several shares, or the few batches that teach most.
        </p>
      )}
      {trials.map((trial) => (
        <section key={trial.id} className={classes.trial}>
          <h3>
            <Link to={`/trials/${trial.id}`}>{trial.name}</Link>
          </h3>
          {trial.result.next !== null && (
            <>
              <TrialPicture result={trial.result} criterion={trial.criterion} here={trial.run} />
              {trial.result.steps.map((step) => (
                <p key={`${step.from_run} ${step.to_run}`}>
                  <Sentence>{step.words}</Sentence>
                </p>
              ))}
              <p>
                <b>
                  <Sentence>{trial.result.next.words}</Sentence>
                </b>
              </p>
            </>
          )}
          {trial.result.next === null && (
            <p className="muted">
              {trial.planned} of {trial.runs} test batches planned; none judged by “{trial.criterion.name.toLowerCase()}” yet.
            </p>
          )}
        </section>
      ))}
    </Panel>
  );
}
