import { Button, TextInput } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { answered, api, ApiFailure } from '../api/client';
import { filled } from '../api/filled';
import type { LotWhole, NewStockEvent } from '../api/types';
import { Amount, WeightAmount } from '../cure/Amount';
import { Asked } from '../cure/Asked';
import { EMPTY } from '../cure/typed';
import { SideSheet } from '../design/Dialog';
import { shortDate, shortDateTime } from '../design/dates';
import { formatNumber } from '../design/quantity';
import classes from './Lots.module.css';
import { useAmounts } from './useAmounts';

type StockEvent = NewStockEvent['event'];

/** A lot: how it stands, what can be done with it, its ledger, and where it went. */
export function LotDrawer({ lotId, onClose }: { lotId: string | null; onClose: () => void }) {
  const { data: lot } = useQuery({
    queryKey: ['lot', lotId],
    queryFn: () => answered(api.GET('/api/stock/lots/{lot_id}', { params: { path: { lot_id: lotId ?? '' } } })),
    enabled: lotId !== null,
  });
  return (
    <SideSheet opened={lotId !== null} onClose={onClose} position="right" size={460} title={lot === undefined ? 'Lot' : `Lot ${lot.lot.code}`} closeButtonProps={{ 'aria-label': 'Close the lot' }}>
      {lot !== undefined && lot.id === lotId && <OpenLot key={lot.id} lot={lot} />}
    </SideSheet>
  );
}

function OpenLot({ lot }: { lot: LotWhole }) {
  const client = useQueryClient();
  const weights = useAmounts(lot.lot.kind);
  const words = useWords(lot.lot.kind);
  const [grams, setGrams] = useState(EMPTY);
  const [why, setWhy] = useState('');
  const record = useMutation({
    mutationFn: (event: StockEvent) =>
      filled([lot.id, lot.entries.length, event], (key) =>
        answered(api.POST('/api/stock/lots/{lot_id}/events', { params: { path: { lot_id: lot.id } }, body: { key, event } })),
      ),
    onSuccess: (next) => {
      client.setQueryData(['lot', lot.id], next);
      setGrams(EMPTY);
      setWhy('');
      void client.invalidateQueries({ queryKey: ['stock'] });
    },
  });
  const problem = record.error instanceof ApiFailure ? (record.error.problems[0] ?? null) : null;
  const out = new Set(lot.entries.flatMap(({ event }) => (event.kind === 'struck' ? [event.seq] : [])));
  return (
    <>
      <dl className={classes.facts}>
        <div>
          <dt>In hand</dt>
          <dd data-testid="lot-in-hand">{weights.tell(lot.now.in_hand_g)}</dd>
        </div>
        <div>
          <dt>Came in</dt>
          <dd>{shortDate(lot.lot.arrived)}</dd>
        </div>
        {lot.per_kg !== null && (
          <div>
            <dt>Landed</dt>
            <dd>{weights.price(lot.per_kg)}</dd>
          </div>
        )}
        {lot.lot.purity_percent != null && (
          <div>
            <dt>Purity</dt>
            <dd>{formatNumber(lot.lot.purity_percent, 1)} %</dd>
          </div>
        )}
        {lot.lot.certificate?.sap_koh_mg_per_g != null && (
          <div>
            <dt>SAP, by its certificate</dt>
            <dd>{formatNumber(lot.lot.certificate.sap_koh_mg_per_g, 1)}</dd>
          </div>
        )}
        {lot.lot.certificate?.most_percent != null && (
          <div>
            <dt>Most in a finished bar</dt>
            <dd>{formatNumber(lot.lot.certificate.most_percent, 2)} %</dd>
          </div>
        )}
      </dl>
      {Object.keys(lot.lot.certificate?.allergens_percent ?? {}).length > 0 && (
        <p className="muted">
          Allergens by its sheet:{' '}
          {Object.entries(lot.lot.certificate?.allergens_percent ?? {})
            .map(([name, share]) => `${name} ${formatNumber(share, 3, 0)} %`)
            .join(', ')}
        </p>
      )}
      <p className="muted">{[lot.lot.supplier, lot.lot.supplier_code, lot.lot.place].filter(Boolean).join(' · ')}</p>
      {lot.lot.parts.length > 0 && <p className="muted">Poured from {lot.lot.parts.map((part) => `${part.code} (${weights.tell(part.grams)})`).join(', ')}.</p>}
      {lot.now.is_stopped && <p className={classes.stopped}>✕ Stopped{lot.now.why_stopped === '' ? '' : `: ${lot.now.why_stopped}`}. Nothing is taken from it.</p>}
      <div className={classes.fields}>
        {lot.lot.kind === 'packaging' ? <Amount label="Pieces" unit="pcs" value={grams} onChange={setGrams} testId="lot-weight" /> : <WeightAmount label="Weight" value={grams} onChange={setGrams} testId="lot-weight" />}
        <TextInput label="Why, or what was smelt" value={why} maxLength={200} onChange={(event) => setWhy(event.currentTarget.value)} data-testid="lot-why" />
      </div>
      <div className={classes.row}>
        <Button disabled={grams.value === null} onClick={() => record.mutate({ kind: 'counted', grams: grams.value ?? 0 })} data-testid="lot-count">
          Counted
        </Button>
        <Button disabled={grams.value === null} onClick={() => record.mutate({ kind: 'wasted', grams: grams.value ?? 0, why: why.trim() })} data-testid="lot-waste">
          Waste
        </Button>
        <Button disabled={grams.value === null} onClick={() => record.mutate({ kind: 'returned', grams: grams.value ?? 0, batch_id: '', item: '' })}>
          Put back
        </Button>
        {lot.now.opened_at === null && <Button onClick={() => record.mutate({ kind: 'opened' })}>Opened</Button>}
        <Button onClick={() => record.mutate({ kind: 'checked', is_good: true, text: why.trim() })}>Smells good</Button>
        <Button onClick={() => record.mutate({ kind: 'checked', is_good: false, text: why.trim() })} data-testid="lot-off">
          Smells old: stop it
        </Button>
        {lot.now.is_stopped && (
          <Button onClick={() => record.mutate({ kind: 'stopped', is_stopped: false, why: why.trim() })} data-testid="lot-release">
            Release it
          </Button>
        )}
      </div>
      <Asked problem={problem} />
      {record.error !== null && problem === null && <p role="alert">{record.error.message}</p>}
      <h3 className={classes.head}>Ledger</h3>
      <ol className={classes.ledger} data-testid="lot-ledger">
        {[...lot.entries].reverse().map((entry) => (
          <li key={entry.seq} data-void={out.has(entry.seq)}>
            <time>{shortDateTime(entry.at)}</time>
            <span>{words(entry.event)}</span>
            <b>{entry.change_g === 0 ? '' : `${entry.change_g > 0 ? '+' : '−'}${weights.tell(Math.abs(entry.change_g))}`}</b>
            {!out.has(entry.seq) && !['arrived', 'struck', 'mixed'].includes(entry.event.kind) && (
              <button type="button" className={classes.chip} disabled={why.trim() === ''} title={why.trim() === '' ? 'Say why first' : undefined} onClick={() => record.mutate({ kind: 'struck', seq: entry.seq, reason: why.trim() })} aria-label={`Strike entry ${entry.seq}`}>
                Strike
              </button>
            )}
          </li>
        ))}
      </ol>
      <Trace lot={lot} />
    </>
  );
}

/** The batches that took from it, where their bars are, and how complete the record is. */
function Trace({ lot }: { lot: LotWhole }) {
  const amounts = useAmounts(lot.lot.kind);
  const { data: trace } = useQuery({
    queryKey: ['trace', lot.id],
    queryFn: () => answered(api.GET('/api/stock/lots/{lot_id}/trace', { params: { path: { lot_id: lot.id } } })),
    refetchOnMount: 'always',
  });
  if (trace === undefined) return null;
  return (
    <>
      <h3 className={classes.head}>Where it went</h3>
      {trace.batches.length === 0 && <p className="muted">Into no batch yet.</p>}
      <ul className={classes.notes} data-testid="lot-trace">
        {trace.batches.map((one) => (
          <li key={one.batch_id}>
            <span>
              <Link to={`/batches/${one.batch_id}/cure`}>{one.code}</Link> {one.name}: {amounts.tell(one.grams)}
              <small>
                {[one.is_paste ? 'paste in jars' : one.cut ? `${one.bars} bars` : 'not cut yet', ...one.bottled.map((into) => `bottled as ${into}`), one.here > 0 ? `${one.here} here` : '', ...one.gone.map((gone) => `${gone.bars} ${gone.to}${gone.where ? `: ${gone.where}` : ''}`)].filter(Boolean).join(' · ')}
              </small>
            </span>
          </li>
        ))}
      </ul>
      <p className="muted" data-testid="drill">
        {formatNumber(trace.explained_percent, 1, 0)} % of what came in is accounted for{trace.ends_at.length > 0 && ' up to the batches below'}
        {trace.missing_g > 0 && ` (${amounts.tell(trace.missing_g)} was off when counted)`}; of {trace.bars} bars, {trace.bars_known} are here or gone to a place that is named
        {trace.mixed_into.length > 0 && `; some of it was poured into ${trace.mixed_into.join(', ')}`}
        {trace.ends_at.length > 0 && `. The trace ends at ${trace.ends_at.join(', ')}: where these went is not recorded`}
        {trace.uncut.length > 0 && `; ${trace.uncut.join(', ')} not cut yet`}.
      </p>
      <Button component="a" href={`/api/stock/lots/${lot.id}/trace.pdf`} target="_blank" data-testid="trace-sheet">
        Trace sheet
      </Button>
    </>
  );
}

function useWords(kind: LotWhole['lot']['kind']): (event: StockEvent) => string {
  const weights = useAmounts(kind);
  return (event) => {
    switch (event.kind) {
      case 'arrived':
        return 'Came in';
      case 'opened':
        return 'Opened';
      case 'used':
        return 'Used';
      case 'mixed':
        return `Poured into ${event.into}`;
      case 'returned':
        return 'Put back';
      case 'wasted':
        return `Waste${event.why ? `: ${event.why}` : ''}`;
      case 'counted':
        return `Counted: ${weights.tell(event.grams)}`;
      case 'checked':
        return `${event.is_good ? 'Smells good' : 'Smells old'}${event.text ? `: ${event.text}` : ''}`;
      case 'stopped':
        return `${event.is_stopped === false ? 'Released' : 'Stopped'}${event.why ? `: ${event.why}` : ''}`;
      case 'struck':
        return `Entry ${event.seq} struck: ${event.reason}`;
    }
  };
}
