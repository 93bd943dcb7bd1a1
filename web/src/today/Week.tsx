import { Button } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import { answered, api } from '../api/client';
import type { Due } from '../api/types';
import { Pending } from '../app/Pending';
import { clockTime, longDate } from '../design/dates';
import heads from '../design/heads.module.css';
import { KINDS } from './Today';
import classes from './Today.module.css';

const DAYS = 7;
const DAY_MS = 24 * 3_600_000;
/** What is done at an hour rather than on a day. */
const TIMED = new Set<Due['kind']>(['unmould', 'cut']);

/** The week to come as a sheet to print: day by day, with a box to tick. */
export function Week() {
  const { data: due, error } = useQuery({ queryKey: ['coming', DAYS], queryFn: () => answered(api.GET('/api/coming', { params: { query: { days: DAYS } } })), refetchOnMount: 'always' });
  useDocumentTitle('The week · Sapolin');
  if (due === undefined) return error === null ? <Pending /> : <p role="alert">{error.message}</p>;
  const shown = due.filter((one) => !['fit', 'usable', 'curing'].includes(one.kind));
  const today = new Date().setHours(0, 0, 0, 0);
  const days = Array.from({ length: DAYS }, (_, i) => {
    const date = new Date(today + i * DAY_MS + DAY_MS / 2);
    return { date, due: shown.filter((one) => dayOf(one, today) === i) };
  });
  return (
    <div className={classes.page}>
      <div className={heads.top}>
        <h1>The week</h1>
        <Button component={Link} to="/" className={classes.paper}>
          Back to today
        </Button>
        <Button variant="filled" onClick={() => window.print()} className={classes.paper}>
          Print
        </Button>
      </div>
      <div className={classes.week} data-testid="week">
        {days.map(({ date, due: ones }) => (
          <section key={date.toDateString()}>
            <h2>{longDate(date)}</h2>
            {ones.length === 0 && <p className="muted">Nothing due.</p>}
            <ul>
              {ones.map((one) => (
                <li key={`${one.kind} ${one.batch_id}`}>
                  <span aria-hidden className={classes.box} />
                  <span>
                    <b>{KINDS[one.kind].verb}</b> {one.name} <span className={classes.code}>{one.code}</span>
                    {TIMED.has(one.kind) && one.from_at !== null && <> from {clockTime(new Date(one.from_at))}</>}
                  </span>
                </li>
              ))}
            </ul>
          </section>
        ))}
      </div>
      <p className="muted">If nothing is recorded meanwhile; forecasts are estimates.</p>
    </div>
  );
}

function dayOf(due: Due, today: number): number {
  if (due.from_at === null) return 0;
  return Math.min(Math.max(Math.floor((new Date(due.from_at).getTime() - today) / DAY_MS), 0), DAYS - 1);
}
