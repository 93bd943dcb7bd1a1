import { Button } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';

import { answered, api } from '../api/client';
import { Missing } from '../app/Missing';
import { Pending } from '../app/Pending';
import { useTellFailure } from '../app/showFailure';
import columns from '../design/columns.module.css';
import heads from '../design/heads.module.css';
import { Panel } from '../design/Panel';
import { formatChange, formatNumber } from '../design/quantity';
import { Scale } from '../design/scales/Scale';
import { Sentence } from '../design/Sentence';
import { TrialPicture } from './TrialPicture';
import classes from './Trials.module.css';

const TOLD = { surely: 'surely', probably: 'probably', not_yet: 'cannot tell yet', close: 'too close to tell', alike: 'no difference' } as const;

/** A set of test batches: planned one by one, judged, and what they show. */
export function Trial() {
  const { trialId = '' } = useParams();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const { data: trial, error } = useQuery({
    queryKey: ['trial', trialId],
    queryFn: ({ signal }) => answered(api.GET('/api/trials/{trial_id}', { params: { path: { trial_id: trialId } }, signal })),
    refetchOnMount: 'always',
  });
  const plan = useMutation({
    mutationFn: (run: number) => answered(api.POST('/api/trials/{trial_id}/runs/{run}/plan', { params: { path: { trial_id: trialId, run } } })),
    onSuccess: (next) => {
      client.setQueryData(['trial', trialId], next);
      void client.invalidateQueries({ queryKey: ['batches'] });
      void client.invalidateQueries({ queryKey: ['formulas'] });
    },
    onError: tellFailure,
  });
  useDocumentTitle(trial ? `${trial.setup.name} · Sapolin` : 'Trial · Sapolin');
  if (error !== null && trial === undefined) return <Missing title="This trial cannot be shown" message={error.message} />;
  if (!trial) return <Pending />;
  const { result, setup } = trial;
  const isJudged = result.next !== null;
  const most = Math.max(0.01, ...result.effects.flatMap((one) => [Math.abs(one.low), Math.abs(one.high)]));
  return (
    <div className={columns.page}>
      <div className={heads.header}>
        <h1>{setup.name}</h1>
        <span className={classes.age}>
          judged by “{trial.criterion.name.toLowerCase()}” · <Link to={`/formulas/${setup.formula_id}/compare`}>its formula</Link>
        </span>
      </div>
      <div className={heads.sides}>
        <div className={columns.column}>
          <Panel title="What it shows" aside="the line is the 95 % range; estimates">
            {isJudged ? <TrialPicture result={result} criterion={trial.criterion} /> : <p className={classes.lead}>Nothing yet. Plan the test batches, make them on one day, let them cure alike, and judge each of them by “{trial.criterion.name.toLowerCase()}”.</p>}
            {result.steps.map((step) => (
              <p key={`${step.from_run} ${step.to_run}`} className={classes.lead}>
                <Sentence>{step.words}</Sentence>
              </p>
            ))}
            {result.effects.length > 0 && (
              <table className={classes.ages}>
                <caption>Five points more, in place of the others under trial</caption>
                <tbody>
                  {result.effects.map((effect) => (
                    <tr key={effect.oil}>
                      <th scope="row">{effect.name}</th>
                      <td>
                        {formatChange(effect.effect, 2) || '0'} words
                        <small>
                          {formatNumber(effect.low, 2)} to {formatNumber(effect.high, 2)}
                        </small>
                      </td>
                      <td>
                        <Scale low={-most} high={most} height={20} line={{ at: 0, tone: 'plain' }} uncertainty={effect} marks={[{ at: effect.effect, shape: 'disc', tone: 'filled' }]} aria-hidden />
                      </td>
                      <td>{TOLD[effect.told]}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
            {result.next !== null && (
              <p className={classes.lead} data-testid="next-batch">
                <b>
                  <Sentence>{result.next.words}</Sentence>
                </b>
              </p>
            )}
          </Panel>
        </div>
        <Panel title="Test batches" aside={`${trial.batches.length} of ${setup.runs.length} planned`}>
          <ul className={classes.list}>
            {setup.runs.map((run, i) => {
              const batch = trial.batches.find((one) => one.run === i);
              return (
                <li key={run.label} data-testid={`run-${i}`}>
                  <b>{run.label}</b>
                  {batch === undefined ? (
                    <Button onClick={() => plan.mutate(i)} loading={plan.isPending && plan.variables === i} data-testid={`plan-run-${i}`}>
                      Plan it
                    </Button>
                  ) : (
                    <Link to={`/batches/${batch.batch_id}${batch.fit ? '/tests' : batch.status === 'made' ? '/cure' : ''}`}>
                      {batch.code}: {batch.fit ? 'judge it' : batch.status === 'made' ? 'curing' : 'make it'}
                    </Link>
                  )}
                </li>
              );
            })}
          </ul>
        </Panel>
      </div>
    </div>
  );
}
