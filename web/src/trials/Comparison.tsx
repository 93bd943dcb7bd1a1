import { Button, SegmentedControl } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useState, type CSSProperties } from 'react';
import { Link, useParams } from 'react-router';

import { answered, api, ApiFailure } from '../api/client';
import { filled } from '../api/filled';
import type { ComparisonView, NewComparisonEvent } from '../api/types';
import { Missing } from '../app/Missing';
import { Pending } from '../app/Pending';
import { useTellFailure } from '../app/showFailure';
import { shortDateTime } from '../design/dates';
import heads from '../design/heads.module.css';
import columns from '../design/columns.module.css';
import { Panel } from '../design/Panel';
import { tellNotRecorded } from '../sync/tellNotRecorded';
import { useOutbox, type Delivered } from '../sync/useOutbox';
import type { Waiting } from '../sync/outbox';
import classes from './Trials.module.css';
import { Verdict } from './Verdict';

type ComparisonEvent = NewComparisonEvent['event'];
type Round = ComparisonView['rounds'][number];

/** A blind comparison, judged round by round; who is who only when all is judged. */
export function Comparison() {
  const { comparisonId = '' } = useParams();
  const client = useQueryClient();
  const { data: view, error } = useQuery({
    queryKey: ['comparison', comparisonId],
    queryFn: ({ signal }) => answered(api.GET('/api/comparisons/{comparison_id}', { params: { path: { comparison_id: comparisonId } }, signal })),
    refetchOnMount: 'always',
  });
  const post = useCallback(
    async (entry: Waiting<ComparisonEvent>) => {
      const next = await answered(
        api.POST('/api/comparisons/{comparison_id}/events', { params: { path: { comparison_id: comparisonId } }, body: { key: entry.key, event: entry.event } }),
      );
      client.setQueryData(['comparison', comparisonId], next);
      void client.invalidateQueries({ queryKey: ['tests'] });
      return next;
    },
    [comparisonId, client],
  );
  const settle = useCallback((delivered: Delivered<ComparisonView>) => {
    if ('answer' in delivered) return;
    const message = delivered.failure instanceof ApiFailure ? delivered.failure.message : String(delivered.failure);
    notifications.show({ title: 'Not recorded', message, color: 'yellow' });
    void client.invalidateQueries({ queryKey: ['comparison', comparisonId] });
  }, [client, comparisonId]);
  const { add, isSaved, isOffline } = useOutbox<ComparisonEvent, ComparisonView>({ record: `${comparisonId}~comparison`, post, onRecalled: (entry, delivered) => tellNotRecorded(entry.event.kind.replace('_', ' '), entry.event, delivered) });
  const send = async (event: ComparisonEvent) => settle(await add(event));
  useDocumentTitle(view ? `${view.setup.question} · Sapolin` : 'Comparison · Sapolin');
  if (error !== null && view === undefined) return <Missing title="This comparison cannot be shown" message={error.message} />;
  if (!view) return <Pending />;
  return (
    <div className={columns.page}>
      <div className={heads.header}>
        <h1>{view.setup.question}</h1>
        <span className={classes.age} role="status" data-testid="comparison-saved">
          {isSaved ? '' : isOffline ? 'No answer from the server; kept on this device, sent again' : 'Saving …'}
        </span>
      </div>
      <div className={classes.judging}>
        {view.is_done ? <Verdict view={view} /> : <Rounds view={view} send={send} isSaved={isSaved} />}
        {view.is_done ? null : <Helper view={view} send={send} />}
        <p>
          {view.setup.bars.map((bar) => (
            <Link key={bar.batch_id} className={classes.back} to={`/batches/${bar.batch_id}/tests`}>
              {bar.label}
            </Link>
          ))}
        </p>
      </div>
    </div>
  );
}

interface RoundsProps {
  view: ComparisonView;
  send: (event: ComparisonEvent) => Promise<void>;
  isSaved: boolean;
}

function Rounds({ view, send, isSaved }: RoundsProps) {
  const [chosen, setChosen] = useState<string | null>(null);
  const waiting = view.turns.filter((turn) => turn.round !== null);
  const turn = view.turns.find((one) => one.tester === chosen) ?? waiting[0] ?? view.turns[0];
  if (turn === undefined) return null;
  const choose = (code: string | null) => turn.round !== null && void send({ kind: 'chosen', round: turn.round, code });
  return (
    <Panel title={view.setup.at_once === 2 ? 'Two bars, no names' : 'Three bars, no names'} aside={turn.round === null ? `${turn.tester} is done` : `round ${turn.judged + 1} of ${turn.of}`}>
      {view.turns.length > 1 && <SegmentedControl fullWidth size="md" value={turn.tester} onChange={setChosen} data={view.turns.map((one) => one.tester)} aria-label="Who judges" />}
      {turn.round === null ? (
        <p className={classes.lead}>
          {turn.tester} has judged all {turn.of}. Now: {waiting.map((one) => one.tester).join(', ')}.
        </p>
      ) : (
        <>
          <div className={classes.codes} data-testid="codes">
            {turn.codes.map((code) => (
              <span key={code}>{code}</span>
            ))}
          </div>
          <p className={classes.lead}>
            Wash with {turn.codes[0]}, dry, then with {turn.codes.slice(1).join(', dry, then with ')}. {view.setup.question}
          </p>
          <div className={classes.answers} key={turn.round} style={{ '--codes': turn.codes.length } as CSSProperties}>
            {turn.codes.map((code) => (
              <button key={code} type="button" disabled={!isSaved} onClick={() => choose(code)} data-testid={`choose-${code}`}>
                {code}
              </button>
            ))}
            <button type="button" className={classes.same} disabled={!isSaved} onClick={() => choose(null)} data-testid="no-difference">
              no difference
            </button>
          </div>
        </>
      )}
      <Undo view={view} send={send} tester={turn.tester} />
    </Panel>
  );
}

/** Take the last choice of a tester back. */
function Undo({ view, send, tester }: { view: ComparisonView; send: (event: ComparisonEvent) => Promise<void>; tester: string }) {
  const out = new Set(view.events.flatMap(({ event }) => (event.kind === 'struck' ? [event.seq] : [])));
  const start = view.turns.slice(0, view.turns.findIndex((one) => one.tester === tester)).reduce((sum, one) => sum + one.of, 0);
  const of = view.turns.find((one) => one.tester === tester)?.of ?? 0;
  const last = [...view.events].reverse().find(({ seq, event }) => event.kind === 'chosen' && !out.has(seq) && event.round >= start && event.round < start + of);
  if (last === undefined || last.event.kind !== 'chosen') return null;
  return (
    <p className={classes.undo}>
      Last: {last.event.code ?? 'no difference'}.{' '}
      <button type="button" className={classes.small} onClick={() => void send({ kind: 'struck', seq: last.seq, reason: 'taken back by the tester' })} data-testid="undo-choice">
        Take it back
      </button>
    </p>
  );
}

/** What somebody who lays the bars out needs, and an end before all is judged. */
function Helper({ view, send }: { view: ComparisonView; send: (event: ComparisonEvent) => Promise<void> }) {
  const tellFailure = useTellFailure();
  const [rounds, setRounds] = useState<Round[] | null>(null);
  const show = () =>
    filled(['helper', view.id], (key) => answered(api.POST('/api/comparisons/{comparison_id}/key', { params: { path: { comparison_id: view.id } }, body: { key } })))
      .then(setRounds)
      .catch(tellFailure);
  const judged = view.turns.reduce((sum, turn) => sum + turn.judged, 0);
  return (
    <details className={classes.how}>
      <summary>For the helper who lays the bars out</summary>
      <p>
        Write each code on a slip and put the bar on it. Alone? Lay each bar on the back of its slip, shuffle them, and turn the slips over only after you have chosen.
      </p>
      {rounds === null ? (
        <div className={classes.row}>
          <Button onClick={() => void show()} data-testid="show-key">
            Show who is who
          </Button>
          <Button disabled={judged === 0} onClick={() => void send({ kind: 'ended' })} data-testid="end-comparison">
            End it now
          </Button>
        </div>
      ) : (
        <table className={classes.key} data-testid="key">
          <tbody>
            {rounds.map((round, i) => (
              <tr key={round.codes.join()}>
                <th scope="row">
                  {round.tester} {rounds.slice(0, i + 1).filter((one) => one.tester === round.tester).length}
                </th>
                {round.codes.map((code, at) => (
                  <td key={code}>
                    <b>{code}</b> {view.setup.bars[round.bars[at] ?? 0]?.label}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {view.key_shown_at !== null && <p className="muted">Who is who was shown on {shortDateTime(view.key_shown_at)}; that stands in the record.</p>}
    </details>
  );
}
