import { Button } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import type { Buying as BuyingNow } from '../api/types';
import { useTellFailure } from '../app/showFailure';
import buttons from '../design/buttons.module.css';
import columns from '../design/columns.module.css';
import { shortDate } from '../design/dates';
import heads from '../design/heads.module.css';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import { AlsoBuy } from './AlsoBuy';
import classes from './Buying.module.css';
import { ReadPriceList } from './ReadPriceList';
import { StockStages } from './StockStages';
import { useAlsoBuy } from './useAlsoBuy';
import { useAmounts } from './useAmounts';

type Order = BuyingNow['purchase']['orders'][number];
type Need = BuyingNow['needs'][number];

export const money = (value: number) => formatNumber(value, 2);

/** What planned batches are short of, and the purchase of it that costs least. */
export function Buying() {
  const { data, error } = useQuery({ queryKey: ['buying'], queryFn: ({ signal }) => answered(api.GET('/api/buying', { signal })), refetchOnMount: 'always' });
  const [isReading, setReading] = useState(false);
  useDocumentTitle('To buy · Sapolin');
  const purchase = data?.purchase;
  const nameOf = (material: string) => data?.names.find((one) => one.material === material)?.name ?? material;
  const needOf = (material: string) => data?.needs.find((one) => one.material === material);
  return (
    <div className={columns.page}>
      <div className={heads.top}>
        <h1>Stock</h1>
        <StockStages />
        <Button variant="filled" onClick={() => setReading(true)} data-testid="read-price-list">
          Read a price list
        </Button>
      </div>
      <div className={heads.sides}>
        <div className={columns.column}>
          <Panel title="To buy" aside={purchase !== undefined && purchase.orders.length > 0 ? (purchase.is_proven ? 'proven optimal: no purchase from these lists is cheaper' : `within ${money(purchase.gap)} of the cheapest`) : undefined}>
            {error !== null && <p role="alert">{error.message}</p>}
            {data !== undefined && data.needs.length === 0 && <p className="muted">Nothing is short for the batches that are planned, and nothing else is on the list.</p>}
            {data !== undefined && data.needs.length > 0 && data.lists.length === 0 && <p className="muted">No price list yet: read one, and the cheapest packs and suppliers are found.</p>}
            {purchase?.orders.map((order) => (
              <OrderTable key={order.supplier} order={order} nameOf={nameOf} needOf={needOf} />
            ))}
            {purchase !== undefined && purchase.not_offered.length > 0 && data !== undefined && data.lists.length > 0 && (
              <p className={classes.missing} data-testid="not-offered">
                On no list: {purchase.not_offered.map(nameOf).join(', ')}.
              </p>
            )}
            {purchase !== undefined && purchase.orders.length > 0 && (
              <div className={classes.sum}>
                <Button component="a" href="/api/buying/list.csv" download data-testid="buy-csv">
                  CSV
                </Button>
                <Button component="a" href="/api/buying/list.pdf" target="_blank" data-testid="buy-print">
                  Print
                </Button>
                <span className={classes.spring} />
                <span>goods {money(purchase.goods)} + freight {money(purchase.freight)} =</span>
                <b data-testid="buy-total">{money(purchase.total)}</b>
              </div>
            )}
          </Panel>
          {purchase !== undefined && purchase.hints.length > 0 && (
            <Panel title="What else could be done" aside="estimates">
              <ul className={classes.hints} data-testid="buy-hints">
                {purchase.hints.map((hint) => (
                  <li key={JSON.stringify(hint.words)}>
                    {hint.material !== '' && <b>{nameOf(hint.material)}: </b>}
                    <Sentence>{hint.words}</Sentence>
                  </li>
                ))}
              </ul>
            </Panel>
          )}
        </div>
        <div className={columns.column}>
          <Panel title="What is needed">
            <ul className={classes.needs} data-testid="needs">
              {data?.needs.map((need) => (
                <NeedRow key={need.material} need={need} />
              ))}
            </ul>
            <AlsoBuy />
          </Panel>
          <Panel title="Price lists">
            <Lists lists={data?.lists ?? []} />
          </Panel>
        </div>
      </div>
      {isReading && <ReadPriceList suppliers={(data?.lists ?? []).map((one) => one.supplier)} onClose={() => setReading(false)} />}
    </div>
  );
}

function NeedRow({ need }: { need: Need }) {
  const amounts = useAmounts(need.kind);
  const { drop } = useAlsoBuy();
  const why = [need.short_g > 0 ? `${amounts.tell(need.short_g)} short for ${need.batches.join(', ')}${need.by === null ? '' : `, needed by ${shortDate(need.by)}`}` : '', need.also_g > 0 ? `${need.short_g > 0 ? `${amounts.tell(need.also_g)} ` : ''}wanted` : ''];
  return (
    <li>
      <span>
        <b>{need.name}</b>
        <small>{why.filter(Boolean).join(' · ')}</small>
      </span>
      <span>
        {amounts.tell(need.short_g + need.also_g)}{' '}
        {need.also_g > 0 && (
          <button type="button" className={buttons.drop} onClick={() => void drop(need.material)} aria-label={`Do not buy ${need.name} beside`}>
            ×
          </button>
        )}
      </span>
    </li>
  );
}

interface OrderProps {
  order: Order;
  nameOf: (material: string) => string;
  needOf: (material: string) => Need | undefined;
}

function OrderTable({ order, nameOf, needOf }: OrderProps) {
  return (
    <section className={classes.order} aria-label={`Order from ${order.supplier}`} data-testid={`order-${order.supplier}`}>
      <h3>{order.supplier}</h3>
      <ul>
        {order.lines.map((line) => (
          <Line key={`${line.material}-${line.pack_g}-${line.name}`} line={line} name={nameOf(line.material)} kind={needOf(line.material)?.kind ?? 'oil'} />
        ))}
        <li>
          <span>Freight{order.to_free_freight === null ? '' : `: free from ${money(order.goods + order.to_free_freight)}`}</span>
          <b>{money(order.freight)}</b>
        </li>
      </ul>
    </section>
  );
}

function Line({ line, name, kind }: { line: Order['lines'][number]; name: string; kind: Need['kind'] }) {
  const amounts = useAmounts(kind);
  return (
    <li>
      <span>
        <b>{name}</b> {line.packs} × {amounts.tell(line.pack_g)}
        <small>
          “{line.name}” · {amounts.price(line.landed_per_kg)} landed
          {line.instead.length > 0 && (
            <>
              {' · '}
              <Sentence>{line.instead}</Sentence>
            </>
          )}
        </small>
      </span>
      <b>{money(line.cost)}</b>
    </li>
  );
}

function Lists({ lists }: { lists: BuyingNow['lists'] }) {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const refresh = () => client.invalidateQueries({ queryKey: ['buying'] });
  const path = (id: string) => ({ params: { path: { list_id: id } } });
  const restore = useMutation({ mutationFn: (id: string) => answered(api.POST('/api/price-lists/{list_id}/restore', path(id))), onSuccess: refresh, onError: tellFailure });
  const archive = useMutation({
    mutationFn: (one: BuyingNow['lists'][number]) => answered(api.DELETE('/api/price-lists/{list_id}', path(one.id))),
    onSuccess: async (_, one) => {
      await refresh();
      const notice = notifications.show({
        autoClose: 8000,
        message: (
          <>
            The list of {one.supplier} is archived.{' '}
            <Button size="compact-sm" onClick={() => { notifications.hide(notice); restore.mutate(one.id); }}>
              Undo
            </Button>
          </>
        ),
      });
    },
    onError: tellFailure,
  });
  if (lists.length === 0) return <p className="muted">None yet. A CSV or spreadsheet file of a supplier, with names, packs and prices.</p>;
  return (
    <ul className={classes.needs} data-testid="price-lists">
      {lists.map((one) => (
        <li key={one.id}>
          <span>
            <b>{one.supplier}</b>
            <small>
              {one.offers} packs · read {shortDate(one.read_at)} · freight {money(one.freight)}
              {one.free_from !== null && `, free from ${money(one.free_from)}`}
              {one.least_order > 0 && ` · at least ${money(one.least_order)}`}
            </small>
          </span>
          <button type="button" className={buttons.drop} onClick={() => archive.mutate(one)} aria-label={`Archive the list of ${one.supplier}`}>
            ×
          </button>
        </li>
      ))}
    </ul>
  );
}
