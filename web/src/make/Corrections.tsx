import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import type { Correction } from '../api/types';
import { formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import classes from './Make.module.css';
import { useMaking } from './MakeContext';

interface CorrectionsProps {
  item: string;
  onSettled: () => Promise<void>;
  /** The maker pours on or takes out, and weighs again. */
  onGoOn: () => void;
}

/** A weight that is off: its effect, and what can be done. */
export function Corrections({ item, onSettled, onGoOn }: CorrectionsProps) {
  const { run, send } = useMaking();
  const { data: off } = useQuery({
    queryKey: ['deviation', run.record.id, item, run.events],
    queryFn: () =>
      answered(
        api.GET('/api/batches/{batch_id}/deviation/{item}', { params: { path: { batch_id: run.record.id, item } } }),
      ),
    placeholderData: (before) => before,
  });
  if (off === undefined) return null;
  const go = async (correction: Correction) => {
    if (correction.correction === 'pour_on') {
      onGoOn();
      return;
    }
    const sent = await send({ kind: 'correction_taken', item, correction: correction.correction, targets_g: {}, words: [] });
    if (sent.ok && correction.correction === 'remove') onGoOn();
    else if (sent.ok && sent.run.state.settled.includes(item) && sent.run.state.current === `weigh-${item}`) await onSettled();
  };
  return (
    <section className={classes.corrections} aria-label="What to do about it" data-testid="corrections">
      <p>
        <strong><Sentence>{off.words}</Sentence></strong> What now?
      </p>
      {off.corrections.map((correction) => (
        <button key={correction.correction} type="button" disabled={!correction.possible} onClick={() => void go(correction)} data-testid={`correction-${correction.correction}`}>
          <b>{correction.title}</b>
          <span><Sentence>{correction.possible ? correction.text : correction.why_not}</Sentence></span>
          {correction.possible && correction.correction !== 'accept' && correction.after.result && (
            <small>then expected superfat {formatNumber(correction.after.result.lye.superfat_interval.middle_percent, 1)} %</small>
          )}
        </button>
      ))}
    </section>
  );
}
