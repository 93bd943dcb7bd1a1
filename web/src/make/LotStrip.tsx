import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import type { Diagnostic, WeighingNow } from '../api/types';
import { Advice } from '../design/Sentence';
import { shortDate } from '../design/dates';
import { useWeights } from '../design/units';
import classes from './Make.module.css';
import { useMaking } from './MakeContext';

/** The tub that is weighed from: the next to use is named, and its code is typed or scanned. */
export function LotStrip({ now }: { now: WeighingNow }) {
  const { run, send } = useMaking();
  const weights = useWeights();
  const { data } = useQuery({
    queryKey: ['batch-lots', run.record.id],
    queryFn: () => answered(api.GET('/api/batches/{batch_id}/lots', { params: { path: { batch_id: run.record.id } } })),
    refetchOnMount: 'always',
  });
  const [code, setCode] = useState('');
  const [isChanging, setChanging] = useState(false);
  const [refused, setRefused] = useState<{ code: string; problem: Diagnostic | null } | null>(null);
  const lots = data?.find((one) => one.item === now.item)?.lots ?? [];
  const chosen = run.state.lots[now.item];
  const first = lots[0];
  if (first === undefined && chosen === undefined) return null;
  const choose = async (typed: string, sure = false) => {
    const sent = await send({ kind: 'lot_chosen', item: now.item, code: typed.trim(), lot_id: '', purity_percent: null, sure });
    setRefused(sent.ok ? null : { code: typed, problem: sent.problem });
    if (!sent.ok) return;
    setCode('');
    setChanging(false);
  };
  const problem = refused?.problem ?? null;
  const keeps = first?.keeping;
  if (chosen !== undefined && !isChanging) {
    return (
      <p className={classes.lot} data-testid="lot-strip" data-chosen>
        <span>
          ✓ {chosen.code === '' ? 'from no lot that is kept' : <>from lot <b>{chosen.code}</b></>}
          {chosen.purity_percent !== null && <small>{chosen.purity_percent} % pure</small>}
        </span>
        <button type="button" className={classes.lotButton} onClick={() => setChanging(true)}>
          Another lot
        </button>
      </p>
    );
  }
  return (
    <div data-testid="lot-strip">
      <form
        className={classes.lot}
        onSubmit={(event) => {
          event.preventDefault();
          if (code.trim() !== '') void choose(code);
        }}
      >
        {first !== undefined && (
          <span>
            lot <b>{first.lot.code}</b> is next
            <small>
              {weights.tell(first.now.in_hand_g)} in hand
              {keeps != null && ` · ${keeps.is_estimate ? 'keeps until about' : 'best before'} ${shortDate(keeps.until)}`}
              {first.now.in_hand_g < now.target_g && ' · not enough: the rest from another'}
            </small>
          </span>
        )}
        <input className={classes.lotCode} value={code} placeholder="type or scan its code" aria-label="Code of the lot" maxLength={24} autoCapitalize="characters" onChange={(event) => setCode(event.currentTarget.value)} data-testid="lot-code-typed" />
        <button type="submit" className={classes.lotButton} disabled={code.trim() === ''}>
          Take it
        </button>
        <button type="button" className={classes.lotButton} onClick={() => void choose('')} data-testid="no-lot">
          No lot
        </button>
      </form>
      {problem !== null && (
        <div className={classes.problem} role="alert" data-testid="lot-problem">
          <Advice of={problem} />
          {problem.is_doubt && (
            <div className={classes.actions}>
              <button type="button" className={classes.big} onClick={() => void choose(refused?.code ?? '', true)} data-testid="lot-sure">
                Yes, use it
              </button>
            </div>
          )}
        </div>
      )}
    </div>
  );
}
