import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import type { Way } from '../api/types';
import { formatNumber } from '../shared/quantity';
import { Told } from '../shared/Told';
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
    queryKey: ['deviation', run.record.id, item, run.state.seq],
    queryFn: () =>
      answered(
        api.GET('/api/batches/{batch_id}/deviation/{item}', { params: { path: { batch_id: run.record.id, item } } }),
      ),
    placeholderData: (before) => before,
  });
  if (off === undefined) return null;
  const go = async (way: Way) => {
    if (way.way === 'pour_on') {
      onGoOn();
      return;
    }
    const sent = await send({ kind: 'way_taken', item, way: way.way, targets_g: {}, words: '' });
    if (sent.ok && way.way === 'remove') onGoOn();
    else if (sent.ok && sent.run.state.settled.includes(item) && sent.run.state.current === `weigh-${item}`) await onSettled();
  };
  return (
    <section className={classes.ways} aria-label="What to do about it" data-testid="ways-out">
      <p>
        <strong><Told>{off.words}</Told></strong> What now?
      </p>
      {off.ways.map((way) => (
        <button key={way.way} type="button" disabled={!way.possible} onClick={() => void go(way)} data-testid={`way-${way.way}`}>
          <b>{way.title}</b>
          <span><Told>{way.possible ? way.text : way.why_not}</Told></span>
          {way.possible && way.way !== 'accept' && way.after.figures && (
            <small>then true superfat {formatNumber(way.after.figures.lye.superfat_interval.middle_percent, 1)} %</small>
          )}
        </button>
      ))}
    </section>
  );
}
