import { Button, Menu, TextInput } from '@mantine/core';
import { useDebouncedValue, useDocumentTitle } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { answered, api } from '../api/client';
import { useBatchPages, useIsLimited } from '../api/queries';
import type { BatchSummary } from '../api/types';
import buttons from '../design/buttons.module.css';
import { MenuButton } from '../design/MenuButton';
import { FormulaPicker } from '../formulas/FormulaPicker';
import { dateTime, shortDate } from '../design/dates';
import { MoreIcon } from '../design/icons';
import { useTellFailure } from '../app/showFailure';
import { useWeights } from '../design/units';
import classes from './Batch.module.css';
import { useMakeAgain } from './useMakeAgain';
import { usePlanBatch } from './usePlanBatch';

const PAGE = 60;
const QUIET_MS = 120;
const GROUPS: { title: string; statuses: BatchSummary['status'][] }[] = [
  { title: 'Being made', statuses: ['making'] },
  { title: 'Planned', statuses: ['planned', 'open'] },
  { title: 'Made', statuses: ['made'] },
  { title: 'Cannot be read', statuses: ['unreadable'] },
  { title: 'Given up', statuses: ['aborted'] },
];

/** Every batch: being made, planned, waiting to be unmoulded. */
export function BatchList() {
  const [search, setSearch] = useState('');
  const [words] = useDebouncedValue(search, QUIET_MS);
  const { data: any } = useBatchPages({}, 1);
  const isEmpty = any?.pages[0]?.total === 0;
  const plan = usePlanBatch();
  const isLimited = useIsLimited();
  useDocumentTitle('Batches · Sapolin');
  return (
    <div className={classes.list}>
      <div className={classes.header}>
        <h1 className={classes.title}>Batches</h1>
        <span className={classes.spring} />
        <TextInput
          value={search}
          onChange={(event) => setSearch(event.currentTarget.value)}
          placeholder="Search codes and names"
          aria-label="Search batches"
          type="search"
        />
        <Button component={Link} to="/preparations" data-testid="to-preparations">
          Paste and other work
        </Button>
        {!isLimited && (
          <FormulaPicker testId="plan-batch" variant="filled" complete onPick={(id) => void plan(id)}>
            Plan a batch ▾
          </FormulaPicker>
        )}
      </div>
      {words === '' && isEmpty && (
        <p className={classes.empty}>
          No batch yet. Plan one from a formula: choose its mould, how it is made, its scent and colours, and print the sheet.
        </p>
      )}
      {GROUPS.map((group) => (
        <BatchGroup key={group.title} {...group} words={words} />
      ))}
    </div>
  );
}

interface BatchGroupProps {
  title: string;
  statuses: BatchSummary['status'][];
  words: string;
}

/** The batches of one kind, a page at a time. */
function BatchGroup({ title, statuses, words }: BatchGroupProps) {
  const { data, hasNextPage, fetchNextPage, isFetchingNextPage } = useBatchPages({ status: statuses, search: words }, PAGE);
  const batches = data?.pages.flatMap((page) => page.batches) ?? [];
  const total = data?.pages[0]?.total ?? 0;
  if (batches.length === 0) return null;
  return (
    <section>
      <h2 className={classes.group}>{title}</h2>
      <ul className={classes.batches}>
        {batches.map((batch) => (
          <BatchRow key={batch.id} batch={batch} />
        ))}
      </ul>
      {hasNextPage && (
        <Button onClick={() => void fetchNextPage()} loading={isFetchingNextPage}>
          {total - batches.length} more
        </Button>
      )}
    </section>
  );
}

function BatchRow({ batch }: { batch: BatchSummary }) {
  const client = useQueryClient();
  const makeAgain = useMakeAgain();
  const tellFailure = useTellFailure();
  const weights = useWeights();
  const isLimited = useIsLimited();
  const isPlan = batch.status === 'planned' || batch.status === 'open';
  const settle = async (act: Promise<unknown>) => {
    try {
      await act;
      await client.invalidateQueries({ queryKey: ['batches'] });
      return true;
    } catch (error) {
      tellFailure(error);
      return false;
    }
  };
  const params = { params: { path: { batch_id: batch.id } } };
  const archive = async () => {
    if (!(await settle(answered(api.DELETE('/api/batches/{batch_id}', params))))) return;
    const notice = notifications.show({
      autoClose: 15_000,
      message: (
        <>
          Batch {batch.code} is archived.{' '}
          <button
            type="button"
            className={buttons.link}
            onClick={() => {
              notifications.hide(notice);
              void settle(answered(api.POST('/api/batches/{batch_id}/restore', params)));
            }}
          >
            Undo
          </button>
        </>
      ),
    });
  };
  return (
    <li className={classes.batch} data-testid={`batch-${batch.code}`}>
      <Link to={isPlan ? `/batches/${batch.id}` : `/batches/${batch.id}/${batch.status === 'made' ? 'cure' : 'make'}`} className={classes.batchName}>
        {batch.name}
      </Link>
      <span className={classes.code}>{batch.code}</span>
      <span className={classes.grams}>{batch.oils_g === null || batch.oils_g === undefined ? '' : `${weights.tell(batch.oils_g)} oils`}</span>
      <span className="muted">{wordsOf(batch)}</span>
      <MenuButton
        position="bottom-end"
        button={
          <button type="button" className={buttons.icon} aria-label={`More for batch ${batch.code}`}>
            <MoreIcon />
          </button>
        }
      >
        <Menu.Item component={Link} to={`/batches/${batch.id}/sheet`} disabled={batch.status === 'open'}>
          Its sheet
        </Menu.Item>
        {batch.status === 'planned' && (
          <Menu.Item component={Link} to={`/batches/${batch.id}/make`}>
            Make day
          </Menu.Item>
        )}
        {!isLimited && (batch.status === 'made' || batch.status === 'aborted') && <Menu.Item onClick={() => void makeAgain(batch.id)}>Make again</Menu.Item>}
        {!isLimited && <Menu.Item onClick={() => void archive()}>Archive</Menu.Item>}
      </MenuButton>
    </li>
  );
}

function wordsOf(batch: BatchSummary): string {
  const day = (at: string | null | undefined) =>
    at ? shortDate(at) : '';
  const hour = (at: Date) => dateTime(at);
  switch (batch.status) {
    case 'making':
      return `at “${batch.current}”`;
    case 'open':
      return 'something is still to be entered';
    case 'planned':
      return 'ready to be made';
    case 'unreadable':
      return 'cannot be read; it stays as it is';
    case 'aborted':
      return `given up on ${day(batch.ended_at)}`;
    default: {
      const made = `made on ${day(batch.ended_at)}`;
      const { cure } = batch;
      if (cure?.unmoulded_at && !cure.cut_at) return `${made} · out of the mould, to be cut`;
      if (cure?.cut_at) {
        if (cure.here <= 0) return `${made} · all gone`;
        const bars = `${made} · ${cure.here === 1 ? '1 bar' : `${cure.here} bars`}`;
        if (cure.fit === 'fit') return `${bars}, fit to use`;
        if (cure.fit === 'unfit') return `${bars}, not fit to use`;
        return cure.ready_at ? `${bars}, ready about ${day(cure.ready_at)}` : bars;
      }
      if (!batch.ended_at || batch.unmould_hours_low === null || batch.unmould_hours_low === undefined) return `made on ${day(batch.ended_at)}`;
      const from = new Date(new Date(batch.ended_at).getTime() + batch.unmould_hours_low * 3_600_000);
      const isDue = from.getTime() <= Date.now();
      return `made on ${day(batch.ended_at)} · unmould ${isDue ? `since ${hour(from)}` : `from ${hour(from)}`}, estimate`;
    }
  }
}
