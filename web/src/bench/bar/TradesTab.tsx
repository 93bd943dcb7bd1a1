import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../../api/client';
import { useReference } from '../../api/queries';
import type { Trade } from '../../api/types';
import { formatChange, formatNumber, tidy } from '../../design/quantity';
import { useBench } from '../BenchContext';
import { enteredSum, setAmount } from '../edits';
import classes from './Bar.module.css';

const SHOWN_MOVES = 3;

/** The few trades between oils that bring the target ranges nearest: what moves, by how much, and a button to do it. */
export function TradesTab() {
  const { draft, live } = useBench();
  const { qualities } = useReference();
  const { data: trades } = useQuery({
    queryKey: ['trades', live.of],
    queryFn: () => (live.of ? answered(api.POST('/api/trades', { body: live.of })) : []),
    enabled: live.of !== null && live.freshness === 'fresh',
    placeholderData: (previous) => previous,
  });
  const name = (id: string) => qualities.find((quality) => quality.id === id)?.name.toLowerCase() ?? id;
  const make = (trade: Trade) =>
    draft.edit((now) => {
      const give = now.blend.lines.findIndex((line) => line.oil === trade.give);
      const take = now.blend.lines.findIndex((line) => line.oil === trade.take);
      const giver = now.blend.lines[give];
      const taker = now.blend.lines[take];
      if (giver === undefined || taker === undefined) return now;
      const moved = (trade.points * enteredSum(now.blend)) / 100;
      const given = setAmount(now, give, tidy((giver.value ?? 0) - moved));
      return setAmount(given, take, tidy((taker.value ?? 0) + moved));
    });
  if (trades?.length === 0) {
    return <p className={classes.calmText}>No trade between these oils brings the quality scales nearer to their target ranges.</p>;
  }
  return (
    <ul className={classes.trades} aria-label="Trades that help most">
      {trades?.map((trade) => (
        <li key={`${trade.give}-${trade.take}`}>
          <button
            type="button"
            className={classes.trade}
            disabled={live.freshness !== 'fresh'}
            onClick={() => make(trade)}
            data-testid={`trade-${trade.give}-${trade.take}`}
          >
            <strong>
              {formatNumber(trade.points, 1, 0)} points of {trade.take_name.toLowerCase()} for{' '}
              {trade.give_name.toLowerCase()}
            </strong>
            <span>
              {trade.moves.slice(0, SHOWN_MOVES).map((move) => (
                <b key={move.quality}>
                  {name(move.quality)} {formatChange(move.points, 1) || '±0'}
                </b>
              ))}
            </span>
          </button>
        </li>
      ))}
    </ul>
  );
}
