import { Button, TextInput } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';

import { answered, api } from '../api/client';
import { useIsLimited } from '../api/queries';
import { filled } from '../api/filled';
import type { Due, NewCureEvent } from '../api/types';
import { Pending } from '../app/Pending';
import { useTellFailure } from '../app/showFailure';
import buttons from '../design/buttons.module.css';
import { clockTime, fullDate, longDate, shortDate, weekdayDate } from '../design/dates';
import { OnTheWay, Sliced } from '../design/Later';
import { TrayPicture } from '../cure/TrayPicture';
import { useTrays } from '../cure/useTrays';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import heads from '../design/heads.module.css';
import { Heed } from '../history/Heed';
import { ShelfNotes } from './ShelfNotes';
import classes from './Today.module.css';

/** About how tall they are on a phone: a panel's heading, what is due, and what stands beside. */
const HEAD_PX = 56;
const ITEM_PX = 86;
const SHELF_AND_RACK_PX = 1300;
const FOLLOW_MS = 60_000;
const DAY_MS = 24 * 3_600_000;

const cure = (due: Due) => `/batches/${due.batch_id}/cure`;
/** What each is called, and where its button leads. */
export const KINDS: Record<Due['kind'], { verb: string; button: string; to: (due: Due) => string }> = {
  go_on: { verb: 'Make day', button: 'Go on', to: (due) => `/batches/${due.batch_id}/make` },
  unmould: { verb: 'Unmould', button: 'Open', to: cure },
  cut: { verb: 'Cut', button: 'Count bars', to: cure },
  fit_test: { verb: 'Test before use', button: 'Test', to: cure },
  unfit: { verb: 'Not fit to use', button: 'Open', to: cure },
  weigh: { verb: 'Weigh', button: 'Weigh', to: cure },
  turn: { verb: 'Turn', button: 'Open', to: cure },
  look: { verb: 'Look at', button: 'Look', to: cure },
  judge: { verb: 'Judge', button: 'Judge', to: (due) => `/batches/${due.batch_id}/tests` },
  fit: { verb: 'Fit to use', button: 'Open', to: cure },
  make: { verb: 'Make', button: 'Begin', to: (due) => `/batches/${due.batch_id}` },
  finish_plan: { verb: 'Plan', button: 'Finish', to: (due) => `/batches/${due.batch_id}` },
  curing: { verb: 'Curing', button: 'Open', to: cure },
  usable: { verb: 'Ready', button: 'Open', to: cure },
};

/** Only an empty workshop needs it. */
const FirstUse = lazy(async () => ({ default: (await import('./FirstUse')).FirstUse }));

/** What the day begins with: what is due, what waits, what is ready, and what earlier batches said. */
export function Today() {
  const isLimited = useIsLimited();
  const { data, error } = useQuery({
    queryKey: ['today'],
    queryFn: ({ signal }) => answered(api.GET('/api/today', { signal })),
    refetchInterval: FOLLOW_MS,
    refetchOnMount: 'always',
  });
  useDocumentTitle(data?.formulas === 0 ? 'Welcome · Sapolin' : 'Today · Sapolin');
  if (data === undefined) return error === null ? <Pending /> : <p role="alert">{error.message}</p>;
  if (data.formulas === 0) {
    return (
      <Suspense fallback={<Pending />}>
        <FirstUse />
      </Suspense>
    );
  }
  const toDo = data.due.filter((due) => due.standing !== 'later');
  const waiting = data.due.filter((due) => due.standing === 'later');
  const day = longDate(new Date());
  return (
    <Sliced before={<Pending />}>
    <div className={classes.page}>
      <div className={heads.top}>
        <h1>{day}</h1>
        <Button component="a" href="/api/calendar.ics" download="sapolin.ics" className={classes.paper}>
          Calendar file
        </Button>
        <Button component={Link} to="/week" className={classes.paper}>
          Week on paper
        </Button>
        <Button component={Link} to="/batches">
          Batches
        </Button>
        {!isLimited && (
          <Button component={Link} to="/formulas" variant="filled">
            Design a bar
          </Button>
        )}
      </div>
      <div className={classes.columns}>
        <Panel title="To do" aside={toDo.length > 0 ? `${toDo.length} open` : undefined}>
          {toDo.length === 0 && (
            <p className="muted">
              Nothing is due.{' '}
              {waiting[0] ? `Next: ${KINDS[waiting[0].kind].verb.toLowerCase()} ${waiting[0].name}, ${whenOf(waiting[0])}.` : 'Plan a batch from a formula.'}
            </p>
          )}
          <ul className={classes.list} data-testid="to-do">
            {toDo.map((due, index) => (
              <Item key={`${due.kind} ${due.batch_id}`} due={due} isFirst={index === 0} />
            ))}
          </ul>
        </Panel>
        <OnTheWay height={HEAD_PX + ITEM_PX * (waiting.length + Math.min(data.ready.length, 12))}>
          <div className={classes.side}>
            <Panel title="Waiting">
              {waiting.length === 0 && <p className="muted">Nothing is in a mould or on the rack.</p>}
              <ul className={classes.list} data-testid="waiting">
                {waiting.map((due) => (
                  <Item key={`${due.kind} ${due.batch_id}`} due={due} />
                ))}
              </ul>
            </Panel>
            {data.ready.length > 0 && (
              <Panel title="Ready">
                <ul className={classes.list} data-testid="ready">
                  {data.ready.slice(0, 12).map((due) => (
                    <Item key={due.batch_id} due={due} />
                  ))}
                </ul>
                {data.ready.length > 12 && <p className="muted">{data.ready.length - 12} more among the batches.</p>}
              </Panel>
            )}
          </div>
        </OnTheWay>
        <OnTheWay height={SHELF_AND_RACK_PX}>
          <div className={classes.side}>
            {!isLimited && <ShelfNotes />}
            <Panel title="Next time" aside="from earlier batches">
              {data.lessons.length === 0 && (
                <p className="muted">What your batches noted for next time stands here as soon as the formula is planned again.</p>
              )}
              <ul className={classes.list} data-testid="lessons">
                {data.lessons.map((lesson) => (
                  <li key={lesson.batch_id} className={classes.lesson}>
                    <Link to={`/batches/${lesson.batch_id}`}>
                      {lesson.name}, {lesson.code}
                    </Link>
                    {lesson.notes.map((note) => (
                      <span key={note} className={classes.noted}>
                        <q>{note}</q>
                        {!isLimited && <Heed formulaId={lesson.formula_id} note={note} />}
                      </span>
                    ))}
                  </li>
                ))}
              </ul>
            </Panel>
            <TheRack />
          </div>
        </OnTheWay>
      </div>
    </div>
    </Sliced>
  );
}

/** The rack from above, and how much room is left. */
function TheRack() {
  const [day, setDay] = useState('');
  const { data: trays = [] } = useTrays(day === '' ? null : new Date(`${day}T12:00`).toISOString());
  if (trays.length === 0) return null;
  const free = trays.reduce((sum, one) => sum + one.free, 0);
  return (
    <Panel title="The rack" aside={<span data-testid="places-free">{`${free} places free${day === '' ? '' : ` on ${shortDate(`${day}T12:00`)}`}`}</span>}>
      <TextInput type="date" size="xs" label="Free on a day to come" value={day} onChange={(event) => setDay(event.currentTarget.value)} className={classes.paper} data-testid="rack-on" />
      <div className={classes.rack}>
        {trays.map((one) => (
          <TrayPicture key={one.tray.code} tray={one} />
        ))}
      </div>
    </Panel>
  );
}

function Item({ due, isFirst = false }: { due: Due; isFirst?: boolean }) {
  const { verb, button, to } = KINDS[due.kind];
  return (
    <li className={classes.item} data-standing={due.standing}>
      <div>
        <strong>{verb}</strong> {due.name} <span className={classes.code}>{due.code}</span>
        <p>{wordsOf(due)}</p>
      </div>
      <PutOff due={due} />
      {due.kind === 'turn' ? <Turned due={due} /> : <Button component={Link} to={to(due)} size="md" variant={isFirst ? 'filled' : 'default'} aria-label={`${button}: ${verb} ${due.name} ${due.code}`}>
        {button}
      </Button>}
    </li>
  );
}

/** Not today: it is due again tomorrow morning. */
function PutOff({ due }: { due: Due }) {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const put = async (until: string | null) => {
    const now = await answered(api.POST('/api/today/put-off', { body: { batch_id: due.batch_id, kind: due.kind, until } }));
    client.setQueryData(['today'], now);
  };
  const later = async () => {
    const morning = new Date();
    morning.setDate(morning.getDate() + 1);
    morning.setHours(6, 0, 0, 0);
    const id = `put-off-${due.kind}-${due.batch_id}`;
    try {
      await put(morning.toISOString());
    } catch (failure) {
      tellFailure(failure);
      return;
    }
    const undo = () => {
      notifications.hide(id);
      void put(null).catch(tellFailure);
    };
    notifications.show({
      id,
      message: (
        <>
          {due.name} {due.code}: put off until tomorrow.{' '}
          <button type="button" className={buttons.link} onClick={undo}>
            Undo
          </button>
        </>
      ),
    });
  };
  if (!due.may_wait) return null;
  return (
    <button type="button" className={buttons.chip} onClick={() => void later()} aria-label={`Tomorrow: ${KINDS[due.kind].verb} ${due.name} ${due.code}`}>
      Tomorrow
    </button>
  );
}

/** Turned over: recorded here and now, and taken back with one touch. */
function Turned({ due }: { due: Due }) {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const record = (event: NewCureEvent['event']) =>
    filled(['today', due.batch_id, event], (key) =>
      answered(api.POST('/api/batches/{batch_id}/cure/events', { params: { path: { batch_id: due.batch_id } }, body: { key, event } })),
    );
  const turn = useMutation({
    mutationFn: () => record({ kind: 'turned' }),
    onError: tellFailure,
    onSuccess: async (view) => {
      const undo = async () => {
        notifications.hide(`turned-${due.batch_id}`);
        await record({ kind: 'struck', seq: view.state.seq, reason: 'taken back' }).catch(tellFailure);
        await client.invalidateQueries({ queryKey: ['today'] });
      };
      notifications.show({
        id: `turned-${due.batch_id}`,
        message: (
          <>
            {due.name} {due.code} is turned.{' '}
            <button type="button" className={buttons.link} onClick={() => void undo()}>
              Undo
            </button>
          </>
        ),
      });
      await client.invalidateQueries({ queryKey: ['today'] });
    },
  });
  return (
    <Button size="md" loading={turn.isPending} onClick={() => turn.mutate()} aria-label={`Turned: ${due.name} ${due.code}`}>
      Turned
    </Button>
  );
}

function hour(at: string): string {
  const date = new Date(at);
  const days = Math.round((new Date(date).setHours(0, 0, 0, 0) - new Date().setHours(0, 0, 0, 0)) / DAY_MS);
  const clock = clockTime(date);
  if (days === 0) return clock;
  if (days === 1) return `tomorrow ${clock}`;
  if (days === -1) return `yesterday ${clock}`;
  return `${weekdayDate(date)} ${clock}`;
}

function day(at: string): string {
  const date = new Date(at);
  return date.getFullYear() === new Date().getFullYear() ? shortDate(date) : fullDate(date);
}

function weeks(at: string): string {
  const left = Math.max((new Date(at).getTime() - Date.now()) / (7 * DAY_MS), 0);
  return left < 1 ? `${formatNumber(Math.ceil(left * 7), 0)} days` : `${formatNumber(Math.round(left), 0)} weeks`;
}

function whenOf(due: Due): string {
  if (due.from_at === null) return '';
  return due.kind === 'unmould' ? `from ${hour(due.from_at)}` : `from ${day(due.from_at)}`;
}

function wordsOf(due: Due): string {
  switch (due.kind) {
    case 'go_on':
      return due.at === null ? 'begun' : `at “${due.at}”`;
    case 'make':
      return 'planned, ready to be made';
    case 'finish_plan':
      return 'something is still to be entered';
    case 'unmould':
      if (due.from_at === null || due.until_at === null) return 'in the mould';
      if (due.standing === 'later') return `in the mould, firm from about ${hour(due.from_at)}`;
      return due.standing === 'now'
        ? `firm since about ${hour(due.from_at)}, cut before ${hour(due.until_at)} or it may crack`
        : `was to be cut before ${hour(due.until_at)}: look today`;
    case 'curing':
      return due.from_at === null ? 'on the rack' : `ready about ${day(due.from_at)}, in ${weeks(due.from_at)}`;
    case 'cut':
      return 'out of the mould; cut it and count the bars';
    case 'fit_test':
      return due.standing === 'later' && due.from_at !== null ? `over the limit; test again from ${day(due.from_at)}` : 'dry: pH strip or zap test, before any bar is used';
    case 'unfit':
      return 'the last test failed: wait and test again, rebatch, or discard';
    case 'weigh':
      return 'the marked bars';
    case 'turn':
      return 'the bars, so that they dry evenly';
    case 'look':
      return 'the bars kept from it: scent, colour, spots';
    case 'judge':
      return 'a bar on a sheet: lather, rinse, skin, firmness';
    case 'fit':
      return due.from_at === null ? 'tested' : `tested ${day(due.from_at)}`;
    case 'usable':
      return due.until_at !== null && new Date(due.until_at).getTime() > Date.now()
        ? `old enough since ${day(due.from_at ?? '')}, test before use; at its best from ${day(due.until_at)}`
        : `old enough since ${day(due.from_at ?? '')}, test before use`;
  }
}
