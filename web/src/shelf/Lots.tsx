import { Button, TextInput } from '@mantine/core';
import { useDebouncedValue, useDocumentTitle } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { answered, api } from '../api/client';
import type { LotView, StockMaterial } from '../api/types';
import columns from '../design/columns.module.css';
import { shortDate } from '../design/dates';
import heads from '../design/heads.module.css';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { GoodsIn } from './GoodsIn';
import { LotDrawer } from './LotDrawer';
import classes from './Lots.module.css';
import { MixLots } from './MixLots';
import { StockStages } from './StockStages';
import { useAmounts } from './useAmounts';

/** What is on the shelf: in hand, promised to planned batches, free; its lots, first to be used first. */
export function Lots() {
  const { data: stock, error } = useQuery({ queryKey: ['stock'], queryFn: ({ signal }) => answered(api.GET('/api/stock', { signal })), refetchOnMount: 'always' });
  const [isComing, setComing] = useState(false);
  const [isMixing, setMixing] = useState(false);
  const [lot, setLot] = useState<string | null>(null);
  useDocumentTitle('Stock · Sapolin');
  const materials = stock?.materials ?? [];
  const kept = materials.filter((one) => one.is_kept);
  const short = materials.filter((one) => one.is_short);
  const most = Math.max(1, ...kept.map((one) => Math.max(one.in_hand_g, one.promised_g)));
  return (
    <div className={columns.page}>
      <div className={heads.top}>
        <h1>Stock</h1>
        <StockStages />
        <Button component={Link} to="/bring-in/stock">
          Bring a table in
        </Button>
        <Button onClick={() => setMixing(true)} disabled={kept.length === 0} data-testid="mix-lots">
          Mix or split
        </Button>
        <Button variant="filled" onClick={() => setComing(true)} data-testid="goods-in">
          Goods in
        </Button>
      </div>
      <div className={heads.sides}>
        <Panel title="On the shelf" aside={stock?.worth == null ? undefined : `what is in hand was paid ${formatNumber(stock.worth, 2)}`}>
          {error !== null && <p role="alert">{error.message}</p>}
          {stock !== undefined && kept.length === 0 && (
            <p className="muted">No lot yet. Enter what stands on the shelf, tub by tub: from then on planned batches reserve it, make day takes from it, and a lot can be traced to its bars.</p>
          )}
          <ul className={classes.list} data-testid="shelf-lots">
            {kept.map((one) => (
              <Row key={one.material} one={one} most={most} onOpen={setLot} />
            ))}
          </ul>
          {kept.length > 0 && (
            <p className={classes.legend}>
              <i className={classes.promised} /> promised to planned batches <i className={classes.free} /> free
            </p>
          )}
        </Panel>
        <div className={classes.side}>
          {short.length > 0 && (
            <Panel title="Short" aside="for planned batches">
              <ul className={classes.notes} data-testid="short">
                {short.map((one) => (
                  <Short key={one.material} one={one} />
                ))}
              </ul>
              <Button component={Link} to="/stock/buying" mt={8} data-testid="to-buying">
                How to buy it
              </Button>
            </Panel>
          )}
          <Panel title="Use first" aside="near its date, or past it">
            {(stock?.use_first ?? []).length === 0 && <p className="muted">Nothing is near its date.</p>}
            <ul className={classes.notes} data-testid="use-first">
              {(stock?.use_first ?? []).map((one) => (
                <li key={one.id}>
                  <button type="button" className={classes.chip} onClick={() => setLot(one.id)}>
                    {one.lot.code}
                  </button>
                  <span>
                    {materials.find((material) => material.material === one.lot.material)?.name ?? one.lot.material}
                    <small data-watch={one.keeping?.is_past}>{keeping(one)}</small>
                  </span>
                </li>
              ))}
            </ul>
          </Panel>
          <FindLot onOpen={setLot} />
        </div>
      </div>
      {isComing && <GoodsIn onClose={() => setComing(false)} />}
      {isMixing && <MixLots materials={kept} onClose={() => setMixing(false)} />}
      <LotDrawer lotId={lot} onClose={() => setLot(null)} />
    </div>
  );
}

/** Any lot by its code or its supplier's, used up or not: for the day something has to be called back. */
function FindLot({ onOpen }: { onOpen: (lotId: string) => void }) {
  const [words, setWords] = useState('');
  const [asked] = useDebouncedValue(words.trim(), 150);
  const { data: found } = useQuery({
    queryKey: ['find-lot', asked],
    queryFn: ({ signal }) => answered(api.GET('/api/stock/lots', { params: { query: { search: asked } }, signal })),
    enabled: asked !== '',
  });
  return (
    <Panel title="Where did it go?">
      <TextInput label="Code of a lot, yours or the supplier’s" value={words} maxLength={60} onChange={(event) => setWords(event.currentTarget.value)} data-testid="find-lot" />
      <ul className={classes.notes} data-testid="found-lots">
        {asked !== '' &&
          (found ?? []).map((one) => (
            <li key={one.id}>
              <button type="button" className={classes.chip} onClick={() => onOpen(one.id)}>
                {one.code}
              </button>
              <span>
                {one.name}
                <small>
                  came in {shortDate(one.arrived)}
                  {one.supplier_code !== '' && ` · theirs ${one.supplier_code}`}
                </small>
              </span>
            </li>
          ))}
      </ul>
      {asked !== '' && found?.length === 0 && <p className="muted">No lot has that in its code.</p>}
    </Panel>
  );
}

function Row({ one, most, onOpen }: { one: StockMaterial; most: number; onOpen: (lotId: string) => void }) {
  const amounts = useAmounts(one.kind);
  const part = (grams: number) => `${(100 * Math.max(grams, 0)) / most}%`;
  return (
    <li data-testid={`stock-${one.material}`}>
      <span className={classes.name}>
        {one.name}
        {one.per_kg !== null && <small>{amounts.price(one.per_kg)}</small>}
      </span>
      <span className={classes.bar} role="img" aria-label={`${amounts.tell(one.in_hand_g)} in hand, ${amounts.tell(one.promised_g)} promised`}>
        <i className={classes.promised} style={{ width: part(Math.min(one.promised_g, one.in_hand_g)) }} />
        <i className={classes.free} style={{ width: part(one.free_g) }} />
        {one.is_short && <i className={classes.short} style={{ width: part(-one.free_g) }} />}
      </span>
      <span className={classes.amount} data-short={one.is_short}>
        {one.is_short ? '−' : ''}
        {amounts.tell(Math.abs(one.free_g))}
        <small>{one.is_short ? 'short' : 'free'}</small>
      </span>
      <span className={classes.lots}>
        {one.lots.map((lot) => (
          <button key={lot.id} type="button" className={classes.chip} data-stopped={lot.now.is_stopped} onClick={() => onOpen(lot.id)} aria-label={`${lot.lot.code} ${standing(lot)}, a lot of ${one.name}`}>
            {lot.lot.code} <small>{standing(lot)}</small>
          </button>
        ))}
        {one.lots.length === 0 && <small>nothing in hand</small>}
      </span>
    </li>
  );
}

function standing(lot: LotView): string {
  if (lot.now.is_stopped) return 'stopped';
  if (lot.is_first) return 'next';
  return lot.now.opened_at === null ? 'sealed' : 'open';
}

function Short({ one }: { one: StockMaterial }) {
  const amounts = useAmounts(one.kind);
  const batch = one.needs[0];
  return (
    <li>
      <span>
        <b>{one.name}</b>: {amounts.tell(-one.free_g)} short
        {batch !== undefined && (
          <small>
            for <Link to={`/batches/${batch.batch_id}`}>{batch.code}</Link>
            {one.needs.length > 1 ? ` and ${one.needs.length - 1} more` : ''}: buy, make a smaller batch, or swap it
          </small>
        )}
      </span>
    </li>
  );
}

function keeping(lot: LotView): string {
  if (lot.now.is_stopped) return `stopped${lot.now.why_stopped === '' ? '' : `: ${lot.now.why_stopped}`}`;
  const { keeping: keeps } = lot;
  if (keeps === null) return '';
  if (keeps.is_estimate) return keeps.is_past ? 'likely past its best (estimate): smell it before use' : `likely keeps until ${shortDate(keeps.until)} (estimate)`;
  return keeps.is_past ? `best before ${shortDate(keeps.until)}: past, not used` : `best before ${shortDate(keeps.until)}`;
}
