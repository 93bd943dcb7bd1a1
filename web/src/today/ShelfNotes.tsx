import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import { answered, api } from '../api/client';
import { shortDate } from '../design/dates';
import { Panel } from '../design/Panel';
import { useWeights } from '../design/units';
import classes from './Today.module.css';

const SHOWN = 4;

/** What runs short for planned batches, and which lots near their date; nothing when all is well. */
export function ShelfNotes() {
  const weights = useWeights();
  const { data: stock } = useQuery({ queryKey: ['stock'], queryFn: ({ signal }) => answered(api.GET('/api/stock', { signal })), refetchOnMount: 'always' });
  const short = (stock?.materials ?? []).filter((one) => one.is_short);
  const soon = stock?.use_first ?? [];
  if (short.length + soon.length === 0) return null;
  const more = Math.max(short.length - SHOWN, 0) + Math.max(soon.length - SHOWN, 0);
  const nameOf = (material: string) => stock?.materials.find((one) => one.material === material)?.name ?? material;
  return (
    <Panel title="On the shelf">
      <ul className={classes.list} data-testid="shelf-notes">
        {short.slice(0, SHOWN).map((one) => (
          <li key={one.material} className={classes.lesson}>
            <Link to="/stock/buying">{one.name} runs short</Link>
            <span className="muted">
              {one.kind === 'packaging' ? `${Math.ceil(-one.free_g)} pcs` : weights.tell(-one.free_g)} too little for {one.needs.map((need) => need.code).join(', ')}
            </span>
          </li>
        ))}
        {soon.slice(0, SHOWN).map((one) => (
          <li key={one.id} className={classes.lesson}>
            <Link to="/stock">
              {nameOf(one.lot.material)}, lot {one.lot.code}
            </Link>
            <span className="muted">
              {one.now.is_stopped ? `stopped${one.now.why_stopped === '' ? '' : `: ${one.now.why_stopped}`}` : one.keeping === null ? '' : `${one.keeping.is_estimate ? 'likely keeps until' : 'best before'} ${shortDate(one.keeping.until)}`}
            </span>
          </li>
        ))}
      </ul>
      {more > 0 && (
        <p className="muted">
          <Link to="/stock">{more} more</Link>
        </p>
      )}
    </Panel>
  );
}
