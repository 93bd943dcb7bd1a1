import { Select } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';

import { answered, api } from '../api/client';
import { useBatchPages } from '../api/queries';
import type { FaultRanking } from '../api/types';
import { Missing } from '../app/Missing';
import { Pending } from '../app/Pending';
import buttons from '../design/buttons.module.css';
import columns from '../design/columns.module.css';
import heads from '../design/heads.module.css';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import { FaultPicture } from './FaultPicture';
import { GuideHead } from './GuideHead';
import classes from './Pages.module.css';
import { useSymptoms } from './useFaults';

const SHOWN = 5;
const MOST_BATCHES = 60;

/** Everything that may be seen, in words and drawn. */
export function Faults() {
  const symptoms = useSymptoms();
  const [params] = useSearchParams();
  const groups = [...new Set(symptoms.map((one) => one.group_name))];
  useDocumentTitle('Fault finder · Sapolin');
  return (
    <div className={columns.page}>
      <GuideHead>What do you see?</GuideHead>
      {groups.map((group) => (
        <section key={group}>
          <h2 className={classes.group}>{group}</h2>
          <ul className={classes.cards}>
            {symptoms
              .filter((one) => one.group_name === group)
              .map((one) => (
                <li key={one.id}>
                  <Link to={`/guide/faults/${one.id}?${params.toString()}`} className={`${classes.card} ${classes.seen}`} data-testid={`symptom-${one.id}`}>
                    <FaultPicture symptom={one.id} />
                    <b>{one.name}</b>
                    <span>{one.looks}</span>
                  </Link>
                </li>
              ))}
          </ul>
        </section>
      ))}
    </div>
  );
}

/** One symptom: its causes ranked, from the record of a batch if there is one. */
export function Fault() {
  const { symptom = '' } = useParams();
  const [params, setParams] = useSearchParams();
  const batchId = params.get('batch');
  const [answers, setAnswers] = useState<Record<string, boolean>>({});
  const { data, error } = useQuery({
    queryKey: ['fault', symptom, batchId, answers],
    queryFn: () => answered(api.POST('/api/faults/rank', { body: { symptom, batch_id: batchId, answers } })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  useDocumentTitle(`${data?.symptom.name ?? 'Fault finder'} · Sapolin`);
  if (error !== null && data === undefined) return <Missing title="This cannot be looked up" message={error.message} />;
  if (data === undefined) return <Pending />;
  const answer = (id: string, yes: boolean) =>
    setAnswers((now) => (now[id] === yes ? Object.fromEntries(Object.entries(now).filter(([one]) => one !== id)) : { ...now, [id]: yes }));
  return (
    <div className={columns.page}>
      <GuideHead>{data.symptom.name}</GuideHead>
      <p className={classes.lead}>
        {data.symptom.looks}{' '}
        <Link to={`/guide/faults?${params.toString()}`} className={buttons.link}>
          Something else
        </Link>
      </p>
      <div className={heads.sides}>
        <Causes ranking={data} hasBatch={batchId !== null} />
        <div className={columns.column}>
          <Panel title="Now">
            <p data-testid="remedy-now">
              <Sentence>{data.now}</Sentence>
            </p>
          </Panel>
          <OfBatch batchId={batchId} onChange={(id) => setParams(id === null ? {} : { batch: id }, { replace: true })} />
          {data.questions.length > 0 && (
            <Panel title="What would tell them apart">
              <ul className={classes.asks}>
                {data.questions.map((question) => (
                  <li key={question.id}>
                    <span>{question.words}</span>
                    <span className={classes.choice} role="group" aria-label={question.words}>
                      <button type="button" aria-pressed={question.answer === true} onClick={() => answer(question.id, true)} data-testid={`${question.id}-yes`}>
                        Yes
                      </button>
                      <button type="button" aria-pressed={question.answer === false} onClick={() => answer(question.id, false)} data-testid={`${question.id}-no`}>
                        No
                      </button>
                    </span>
                  </li>
                ))}
              </ul>
            </Panel>
          )}
        </div>
      </div>
    </div>
  );
}

function Causes({ ranking, hasBatch }: { ranking: FaultRanking; hasBatch: boolean }) {
  const [isAll, setIsAll] = useState(false);
  const shown = isAll ? ranking.causes : ranking.causes.slice(0, SHOWN);
  return (
    <Panel title="Likely causes" aside="ranks by rules of thumb">
      <ol className={classes.causes} aria-live="polite">
        {shown.map((cause) => (
          <li key={cause.cause} className={classes.cause} data-testid={`cause-${cause.cause}`}>
            <div>
              <h3>{cause.name}</h3>
              <div className={classes.bar} role="img" aria-label={`${formatNumber(cause.percent, 0)} %, ${formatNumber(cause.prior_percent, 0)} % before anything was known`}>
                <i style={{ width: `${cause.percent}%` }} />
                <s style={{ left: `${cause.prior_percent}%` }} />
              </div>
            </div>
            <span>{formatNumber(cause.percent, 0)} %</span>
            {cause.reasons.length > 0 && (
              <ul className={classes.reasons}>
                {cause.reasons.map((reason) => (
                  <li key={JSON.stringify(reason.words)} data-against={reason.ratio < 1}>
                    <Sentence>{reason.words}</Sentence>
                  </li>
                ))}
              </ul>
            )}
            <p className={classes.next}>
              <b>Next time:</b> <Sentence>{cause.next_time}</Sentence>
            </p>
          </li>
        ))}
      </ol>
      {ranking.causes.length > shown.length && (
        <button type="button" className={buttons.link} onClick={() => setIsAll(true)}>
          {ranking.causes.length - shown.length} more
        </button>
      )}
      <p className="muted">
        Something else: {formatNumber(ranking.other_percent, 0)} %. {hasBatch ? 'The tick on each bar is where it stood before the record was looked at.' : 'Choose a batch, and its own record counts.'}
      </p>
    </Panel>
  );
}

/** The batch whose record is asked. */
function OfBatch({ batchId, onChange }: { batchId: string | null; onChange: (id: string | null) => void }) {
  const { data } = useBatchPages({}, MOST_BATCHES);
  const batches = data?.pages.flatMap((page) => page.batches).filter((one) => one.status === 'made' || one.status === 'making') ?? [];
  return (
    <Panel title="Of which batch?">
      <Select
        value={batchId}
        onChange={onChange}
        placeholder="no batch"
        clearable
        searchable
        data={batches.map((one) => ({ value: one.id, label: `${one.code}, ${one.name}` }))}
        aria-label="Batch"
        data-testid="fault-batch"
      />
    </Panel>
  );
}
