import { Button, FileButton, TextInput } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import { FIRST_LOOK_MS } from '../api/queries';
import type { Backup } from '../api/types';
import { useTellFailure } from '../app/showFailure';
import { Dialog } from '../design/Dialog';
import { dateTime, fullDate } from '../design/dates';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { bringIn, type BroughtIn } from './archive';
import classes from './Backups.module.css';
import guide from './Guide.module.css';
import { GuideHead } from './GuideHead';

const KEY = ['safekeeping'];
const FOLLOW_MS = 60_000;
const HOUR_MS = 3_600_000;
const DAY_HOURS = 24;
const REASONS: Record<Backup['reason'], string> = {
  daily: 'of the day',
  weekly: 'of the week',
  asked: 'you asked for it',
  upgrade: 'before Sapolin changed its format',
  reset: 'before the demo was reset',
  import: 'before an archive came in',
  restore: 'before a backup was put back',
};

/** Why something of an archive is not here now. */
const WHY_LEFT_OUT = {
  differs: 'here it says something else, and stays as it is here',
  name_taken: 'its name stands for something else here',
  belongs_to_what_is_here: 'this workshop has its own record of it',
  unreadable: 'it cannot be read',
};

/** How long ago, in words a glance takes in. */
export function agoInWords(at: string, now: number): string {
  const hours = (now - new Date(at).getTime()) / HOUR_MS;
  if (hours < 1) return 'In this hour';
  if (hours < 2 * DAY_HOURS) return `${formatNumber(Math.floor(hours), 0)} h ago`;
  return `${formatNumber(Math.floor(hours / DAY_HOURS), 0)} days ago`;
}

const inMb = (bytes: number) =>
  bytes < 1e9 ? `${formatNumber(bytes / 1e6, bytes < 1e7 ? 1 : 0)} MB` : `${formatNumber(bytes / 1e9, 0)} GB`;

/** Everything that keeps a workshop's memory: its backups, putting one back, and carrying all of it away. */
export function Backups() {
  useDocumentTitle('Backups · Sapolin');
  const [chosen, setChosen] = useState<Backup | null>(null);
  const { data: kept, dataUpdatedAt, error } = useQuery({
    queryKey: KEY,
    queryFn: () => answered(api.GET('/api/safekeeping')),
    // Backups are taken by themselves, too, and grow older while one looks.
    refetchInterval: ({ state }) => (state.data?.is_looking ? FIRST_LOOK_MS : FOLLOW_MS),
  });
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const take = useMutation({
    mutationFn: () => answered(api.POST('/api/safekeeping/backups')),
    onSuccess: () => client.invalidateQueries({ queryKey: KEY }),
    onError: tellFailure,
  });
  const newest = kept?.backups[0];
  return (
    <div className={guide.page}>
      <GuideHead>Backups</GuideHead>
      {error !== null && <p role="alert">{error.message}</p>}
      {kept && (
        <div className={guide.columns}>
          <div className={guide.side}>
            <Panel title="Backups">
              <div className={newest ? classes.age : `${classes.age} ${classes.none}`} data-testid="backup-age">
                <span>
                  <b>{newest ? agoInWords(newest.taken_at, dataUpdatedAt) : kept.is_looking ? 'The first one is being taken' : 'No backup yet'}</b>
                  {newest && <span className="muted">The last one was taken then, and checked.</span>}
                </span>
                <Button variant="filled" loading={take.isPending} onClick={() => take.mutate()} data-testid="take-backup">
                  Take a backup now
                </Button>
              </div>
              <p className="muted">
                While Sapolin runs it takes one each day (7 are kept) and one each week (8 are kept), and one before anything that could lose data.
              </p>
              <ul className={classes.list} aria-label="Backups, the newest first">
                {kept.backups.map((backup) => (
                  <li key={backup.name} data-testid="backup">
                    <span>
                      {dateTime(backup.taken_at)}
                      <small>
                        {REASONS[backup.reason]} · {inMb(backup.size_bytes)}
                        {backup.in_second_place && ' · in the second place too'}
                      </small>
                    </span>
                    <Button component="a" href={`/api/safekeeping/backups/${backup.name}/file`} download variant="subtle" aria-label={`Save the backup of ${dateTime(backup.taken_at)} as a file`}>
                      Save as file
                    </Button>
                    <Button onClick={() => setChosen(backup)} aria-label={`Put back the backup of ${dateTime(backup.taken_at)}`}>
                      Put back …
                    </Button>
                  </li>
                ))}
              </ul>
            </Panel>
          </div>
          <div className={guide.side}>
            <Panel title="Where everything is">
              <dl className={classes.facts}>
                <dt>Data</dt>
                <dd>{kept.database}</dd>
                <dt>Size</dt>
                <dd>
                  {inMb(kept.size_bytes)}
                  {kept.pictures > 0 && `, of it ${formatNumber(kept.pictures, 0)} pictures with ${inMb(kept.pictures_bytes)} (at most ${inMb(kept.most_pictures_bytes)})`}
                </dd>
                <dt>Free on the disk</dt>
                <dd>{inMb(kept.free_bytes)}</dd>
                <dt>Backups</dt>
                <dd>{kept.folder}</dd>
              </dl>
              <SecondPlace now={kept.second_place} isThere={kept.second_place_is_there} />
            </Panel>
            <Archive />
          </div>
        </div>
      )}
      {chosen !== null && <PutBack backup={chosen} onClose={() => setChosen(null)} />}
    </div>
  );
}

function SecondPlace({ now, isThere }: { now: string | null; isThere: boolean }) {
  const [folder, setFolder] = useState(now ?? '');
  const client = useQueryClient();
  const choose = useMutation({
    mutationFn: (wanted: string | null) => answered(api.PUT('/api/safekeeping/second-place', { body: { folder: wanted } })),
    onSuccess: (kept) => client.setQueryData(KEY, kept),
  });
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        choose.mutate(folder.trim() === '' ? null : folder);
      }}
    >
      <div className={classes.second}>
        <TextInput
          label="Second place for backups"
          description="A folder on another disk, such as a stick or a synced drive. When this disk dies, that one does not."
          placeholder="/media/stick/sapolin"
          value={folder}
          onChange={(event) => setFolder(event.currentTarget.value)}
          error={choose.error?.message}
          data-testid="second-place"
        />
        <Button type="submit" loading={choose.isPending} data-testid="keep-second-place">
          Use it
        </Button>
      </div>
      <p className="muted" role="status">
        {choose.isSuccess && (now === null ? 'No second place any more.' : 'Every backup is copied there.')}
        {!choose.isSuccess && now !== null && !isThere && 'It cannot be reached now. Copies go there when it can.'}
      </p>
    </form>
  );
}

/** Everything as one file, and one brought in. */
function Archive() {
  const [done, setDone] = useState<BroughtIn | null>(null);
  const read = useMutation({ mutationFn: bringIn, onSuccess: setDone });
  const back = useMutation({
    mutationFn: (name: string) => answered(api.POST('/api/safekeeping/backups/{name}/restore', { params: { path: { name } } })),
  });
  return (
    <Panel title="Everything as one file">
      <p>
        One zip with every formula, batch, lot, label and picture. Other programs can read it: JSON lines, formula documents, tables for a spreadsheet. Sapolin on another machine reads it back whole.
      </p>
      <div className={classes.archive}>
        <Button component="a" href="/api/safekeeping/archive" download data-testid="export">
          Save everything …
        </Button>
        <FileButton accept=".zip,application/zip" onChange={(file) => file !== null && read.mutate(file)} inputProps={{ 'aria-label': 'Bring an archive in' }}>
          {(props) => (
            <Button {...props} loading={read.isPending} data-testid="bring-in">
              Bring one in …
            </Button>
          )}
        </FileButton>
      </div>
      <p className="muted">What is here already stays as it is. What is new comes in.</p>
      {read.error !== null && <p role="alert">{read.error.message}</p>}
      {done !== null && (
        <div role="status" data-testid="brought-in">
          <p>The archive of {fullDate(done.report.written_at)} is in.</p>
          <table className={classes.table}>
            <thead>
              <tr>
                <th scope="col">What</th>
                <th scope="col">Added</th>
                <th scope="col">The same</th>
                <th scope="col">Kept as here</th>
              </tr>
            </thead>
            <tbody>
              {done.report.tables.map((row) => (
                <tr key={row.table}>
                  <td>{row.what}</td>
                  <td>{row.added}</td>
                  <td>{row.same}</td>
                  <td>{row.kept}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {done.report.renamed.length > 0 && <p>Codes that were taken already: {done.report.renamed.join(', ')}</p>}
          {done.report.left_out.length > 0 && (
            <>
              <p>Not brought in; the archive still holds it:</p>
              <ul data-testid="left-out">
                {done.report.left_out.map((one) => (
                  <li key={`${one.what} ${one.name} ${one.why}`}>
                    {one.rows} {one.what}
                    {one.name && ` of ${one.name}`}: {WHY_LEFT_OUT[one.why]}
                  </li>
                ))}
              </ul>
            </>
          )}
          <div className={classes.buttons}>
            <Button loading={back.isPending} onClick={() => back.mutate(done.undo.name, { onSuccess: () => window.location.reload() })} data-testid="take-back">
              Take it back
            </Button>
            <Button variant="filled" onClick={() => window.location.assign('/')}>
              To Today
            </Button>
          </div>
        </div>
      )}
    </Panel>
  );
}

/** What would change, and the decision. */
function PutBack({ backup, onClose }: { backup: Backup; onClose: () => void }) {
  const params = { path: { name: backup.name } };
  const { data: differences, error } = useQuery({
    queryKey: ['differences', backup.name],
    queryFn: () => answered(api.GET('/api/safekeeping/backups/{name}/differences', { params })),
    retry: false,
    gcTime: 0,
  });
  const restore = useMutation({
    mutationFn: () => answered(api.POST('/api/safekeeping/backups/{name}/restore', { params })),
  });
  const changing = differences?.filter((one) => one.would_go + one.would_come + one.would_change > 0);
  const failed = error ?? restore.error;
  return (
    <Dialog opened onClose={onClose} title={`Put back: ${dateTime(backup.taken_at)}`} size="lg" closeOnClickOutside={!restore.isPending}>
      {restore.isSuccess ? (
        <div data-testid="put-back-done">
          <p>Everything is as it was on {dateTime(backup.taken_at)}.</p>
          <p>What was there until now is kept as a backup of its own, at the top of the list. Load other open windows again.</p>
          <div className={classes.buttons}>
            <Button variant="filled" onClick={() => window.location.reload()} data-testid="load-again">
              Load the page again
            </Button>
          </div>
        </div>
      ) : (
        <>
          {changing?.length === 0 && <p>Nothing would change: everything in it is here, and the same.</p>}
          {changing !== undefined && changing.length > 0 && (
            <table className={classes.table} data-testid="differences">
              <thead>
                <tr>
                  <th scope="col">What</th>
                  <th scope="col">Now</th>
                  <th scope="col">Then</th>
                  <th scope="col">Goes</th>
                  <th scope="col">Comes</th>
                  <th scope="col">Changes</th>
                </tr>
              </thead>
              <tbody>
                {changing.map((one) => (
                  <tr key={one.table}>
                    <td>{one.what}</td>
                    <td>{one.now}</td>
                    <td>{one.then}</td>
                    <td>{one.would_go}</td>
                    <td>{one.would_come}</td>
                    <td>{one.would_change}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {differences === undefined && failed === null && <p>Comparing …</p>}
          {failed !== null && <p role="alert">{failed.message}</p>}
          <p className="muted">A backup of what is there now is taken first, so this can be taken back.</p>
          <div className={classes.buttons}>
            <Button onClick={onClose} disabled={restore.isPending}>
              Leave it as it is
            </Button>
            <Button variant="filled" loading={restore.isPending} disabled={changing === undefined || changing.length === 0} onClick={() => restore.mutate()} data-testid="put-back">
              Put it back
            </Button>
          </div>
        </>
      )}
    </Dialog>
  );
}
