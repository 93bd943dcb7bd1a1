import { Menu } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { queryOptions, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import type { PasteOnHand, Preparation, PreparationEntry } from '../api/types';
import { useTellFailure } from '../app/showFailure';
import buttons from '../design/buttons.module.css';
import columns from '../design/columns.module.css';
import { MenuButton } from '../design/MenuButton';
import { shortDate } from '../design/dates';
import heads from '../design/heads.module.css';
import { MoreIcon } from '../design/icons';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { useWeights } from '../design/units';
import classes from './Preparations.module.css';

const STATUS: Record<string, string> = { planned: 'planned', making: 'being made', made: 'made', aborted: 'given up' };

/** What is prepared beside batches, and the pastes that are there to be diluted. */
export function PreparationList() {
  const { data: entries } = useQuery({
    queryKey: ['preparations'],
    queryFn: () => answered(api.GET('/api/preparations', { params: { query: {} } })),
    refetchOnMount: 'always',
  });
  const pastes = usePastes();
  const { data: starts } = useQuery(startsQuery);
  const navigate = useNavigate();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  useDocumentTitle('Paste and other work · Sapolin');
  const start = async (kind: Preparation['kind']) => {
    try {
      // Asked for anew: the pastes may be others by now.
      const begun = (await client.fetchQuery(startsQuery)).find((one) => one.kind === kind);
      if (begun === undefined) return;
      const record = await answered(api.POST('/api/preparations', { body: begun.plan }));
      await client.invalidateQueries({ queryKey: ['preparations'] });
      await navigate(`/preparations/${record.id}`);
    } catch (error) {
      tellFailure(error);
    }
  };
  return (
    <div className={columns.page}>
      <div className={heads.top}>
        <h1>Paste and other work</h1>
        <Link to="/batches" className={buttons.link}>
          To the batches
        </Link>
      </div>
      <ul className={classes.starts}>
        {starts?.map((one) => (
          <li key={one.kind}>
            <button type="button" className={classes.start} onClick={() => void start(one.kind)} data-testid={`start-${one.kind}`}>
              <b>{one.title}</b>
              <span>{one.about}</span>
            </button>
          </li>
        ))}
      </ul>
      <div className={heads.sides}>
        <Panel title="Begun and planned" aside={entries ? `${entries.length}` : ''}>
          {entries?.length === 0 && <p className="muted">Nothing yet. Choose above what you want to do.</p>}
          <ul className={classes.rows}>
            {entries?.map((entry) => (
              <EntryRow key={entry.record.id} entry={entry} />
            ))}
          </ul>
        </Panel>
        <Panel title="Pastes there are">
          {pastes?.length === 0 && (
            <p className="muted">No paste yet. Make a batch of a formula whose purpose is liquid or soft soap: once it is in jars it stands here.</p>
          )}
          <ul className={classes.rows}>
            {pastes?.map((paste) => (
              <PasteRow key={paste.batch_id} paste={paste} />
            ))}
          </ul>
        </Panel>
      </div>
    </div>
  );
}

const startsQuery = queryOptions({ queryKey: ['preparation-starts'], queryFn: () => answered(api.GET('/api/preparations/starts')), staleTime: 0 });
const pastesQuery = queryOptions({ queryKey: ['pastes'], queryFn: () => answered(api.GET('/api/pastes')), staleTime: 0 });

/** The pastes there are; undefined while they are asked for. */
function usePastes(): PasteOnHand[] | undefined {
  return useQuery({ ...pastesQuery, refetchOnMount: 'always' }).data;
}

function PasteRow({ paste }: { paste: PasteOnHand }) {
  const weights = useWeights();
  return (
    <li className={classes.paste}>
      <Link to={`/batches/${paste.batch_id}/cure`}>{paste.name}</Link>
      <span className={classes.amount}>{weights.tell(paste.left_g)}</span>
      <small className="muted">
        {paste.code} · made {shortDate(paste.made_at)} · {formatNumber(paste.soap_percent, 0)} % soap
      </small>
    </li>
  );
}

function EntryRow({ entry: { record, noun, status } }: { entry: PreparationEntry }) {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const params = { params: { path: { preparation_id: record.id } } };
  const settle = async (act: Promise<unknown>) => {
    try {
      await act;
      await client.invalidateQueries({ queryKey: ['preparations'] });
      return true;
    } catch (error) {
      tellFailure(error);
      return false;
    }
  };
  const archive = async () => {
    if (!(await settle(answered(api.DELETE('/api/preparations/{preparation_id}', params))))) return;
    const notice = notifications.show({
      autoClose: 15_000,
      message: (
        <>
          {record.code} is archived.{' '}
          <button
            type="button"
            className={buttons.link}
            onClick={() => {
              notifications.hide(notice);
              void settle(answered(api.POST('/api/preparations/{preparation_id}/restore', params)));
            }}
          >
            Undo
          </button>
        </>
      ),
    });
  };
  return (
    <li className={classes.row} data-testid={`preparation-${record.code}`}>
      <Link to={`/preparations/${record.id}${status === 'planned' ? '' : '/make'}`}>{record.plan.name}</Link>
      <span className={classes.code}>{record.code}</span>
      <span className="muted">{noun}</span>
      <span className="muted">{STATUS[status] ?? status}</span>
      <MenuButton
        position="bottom-end"
        button={
          <button type="button" className={classes.more} aria-label={`More for ${record.code}`}>
            <MoreIcon />
          </button>
        }
      >
        <Menu.Item onClick={() => void archive()}>Archive</Menu.Item>
      </MenuButton>
    </li>
  );
}
