import { Button, FileButton, Menu, TextInput } from '@mantine/core';
import { useDebouncedValue, useDocumentTitle } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useQueryClient } from '@tanstack/react-query';
import { useWindowVirtualizer } from '@tanstack/react-virtual';
import { startTransition, useEffect, useRef, useState } from 'react';
import { Link, useLocation, useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import { at, useFormulaPages, useHealth, useReference, type FormulaQuery } from '../api/queries';
import type { Formula, FormulaRecord, FormulaSummary } from '../api/types';
import { MenuButton } from '../design/MenuButton';
import { fullDate } from '../design/dates';
import { HatchDefs } from '../design/HatchDefs';
import { MoreIcon } from '../design/icons';
import { useIsPhone } from '../design/phone';
import { formatNumber } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { useTellFailure } from '../app/showFailure';
import classes from './FormulaList.module.css';
import { Sliced } from '../design/Later';
import { MiniLoaf } from './MiniLoaf';
import { ReadRecipe } from './ReadRecipe';

const STATE_WORDS: Record<FormulaSummary['state'], string> = {
  complete: '✓ result complete',
  incomplete: '◐ incomplete',
  impossible: '✕ impossible as entered',
  unsafe: '✕ lye-heavy',
  empty: '◐ empty',
  unreadable: '✕ cannot be read',
};

type Order = NonNullable<FormulaQuery['order']>;

const QUIET_MS = 120;
/** About how tall a row is, how far down the first stands, and how many are drawn beyond what is in sight. */
const ROWS = { px: 96, below: 181, beyond: 6 };
const ROWS_ON_PHONE = { px: 185, below: 440, beyond: 2 };
const GAP_PX = 8;
const SHELVES = [
  { value: 'kept', label: 'kept' },
  { value: 'archived', label: 'archived' },
] as const;
const ORDERS: { value: Order; label: string }[] = [
  { value: 'changed', label: 'last changed first' },
  { value: 'name', label: 'by name' },
  { value: 'purpose', label: 'by purpose' },
];

/** Every formula, to open, copy, archive or restore: thousands of them scroll by as a page or two. */
export function FormulaList() {
  const [search, setSearch] = useState('');
  const [shelf, setShelf] = useState<(typeof SHELVES)[number]['value']>('kept');
  const [purpose, setPurpose] = useState('');
  const [state, setState] = useState('');
  const [order, setOrder] = useState<Order>('changed');
  const [reading, setReading] = useState(false);
  const [words] = useDebouncedValue(search, QUIET_MS);
  const { purposes } = useReference();
  const { data, fetchNextPage, hasNextPage, isFetchingNextPage } = useFormulaPages({
    search: words,
    deleted: shelf === 'archived',
    order,
    ...(purpose !== '' && { purpose }),
    ...(state !== '' && { state }),
  });
  const actions = useListActions();
  useArchivedNotice(actions.restore);
  useDocumentTitle('Formulas · Sapolin');
  const formulas = data?.pages.flatMap((page) => page.formulas) ?? [];
  const total = data?.pages[0]?.total ?? 0;
  const isNarrowed = words !== '' || purpose !== '' || state !== '';

  return (
    <div className={classes.page}>
      <HatchDefs />
      <div className={classes.top}>
        <h1>Formulas</h1>
        <FileButton onChange={(file) => void actions.read(file)} accept="application/json,.json">
          {(props) => <Button {...props}>Read a file</Button>}
        </FileButton>
        <Button component={Link} to="/bring-in/formulas">
          Bring a table in
        </Button>
        <Button onClick={() => setReading(true)} data-testid="read-recipe">
          Read a recipe
        </Button>
        <Button variant="filled" onClick={() => void actions.create()} data-testid="new-formula">
          New formula
        </Button>
      </div>
      <div className={classes.narrow}>
        <TextInput
          className={classes.search}
          value={search}
          onChange={(event) => setSearch(event.currentTarget.value)}
          placeholder="Search names, tags, notes and oils"
          aria-label="Search formulas"
          type="search"
          data-testid="search"
        />
        <SelectField
          label="Purpose"
          value={purpose}
          options={[{ value: '', label: 'every purpose' }, ...purposes.map((one) => ({ value: one.id, label: one.name }))]}
          onChange={setPurpose}
          testId="narrow-purpose"
        />
        <SelectField
          label="State"
          value={state}
          options={[
            { value: '', label: 'any state' },
            ...Object.entries(STATE_WORDS).map(([value, label]) => ({ value, label: label.slice(2) })),
          ]}
          onChange={setState}
          testId="narrow-state"
        />
        <SelectField label="Which" value={shelf} options={SHELVES} onChange={setShelf} testId="shelf" />
        <SelectField label="Order" value={order} options={ORDERS} onChange={setOrder} testId="order" />
        <span className={classes.count} role="status">
          {data !== undefined && (total === 1 ? '1 formula' : `${formatNumber(total, 0)} formulas`)}
        </span>
      </div>
      {data !== undefined && total === 0 && (
        <Nothing search={words} isNarrowed={isNarrowed} isArchived={shelf === 'archived'} onCreate={() => void actions.create()} />
      )}
      {reading && (
        <ReadRecipe
          onClose={() => setReading(false)}
          onRead={(formula) => {
            setReading(false);
            void actions.begin(formula);
          }}
        />
      )}
      {data !== undefined && (
        <Sliced before={null}>
          <Rows
            formulas={formulas}
            actions={actions}
            onTag={setSearch}
            onEnd={hasNextPage && !isFetchingNextPage ? () => void fetchNextPage() : undefined}
          />
        </Sliced>
      )}
    </div>
  );
}

interface RowsProps {
  formulas: FormulaSummary[];
  actions: ListActions;
  onTag: (tag: string) => void;
  /** Called when the last of them comes near. */
  onEnd?: () => void;
}

/** Only the rows near the window are drawn. */
function Rows({ formulas, actions, onEnd, onTag }: RowsProps) {
  const list = useRef<HTMLUListElement>(null);
  const { px, below, beyond } = useIsPhone() ? ROWS_ON_PHONE : ROWS;
  const [top, setTop] = useState(below);
  useEffect(() => startTransition(() => setTop((before) => list.current?.offsetTop ?? before)), []);
  const rows = useWindowVirtualizer({
    count: formulas.length,
    estimateSize: () => px,
    overscan: beyond,
    gap: GAP_PX,
    scrollMargin: top,
    // Known, so that the first rows are drawn with the screen, in slices like it, and not in one go after it.
    initialRect: { width: window.innerWidth, height: window.innerHeight },
    getItemKey: (index) => formulas[index]?.id ?? index,
  });
  const items = rows.getVirtualItems();
  const last = items.at(-1);
  const isNearEnd = last !== undefined && last.index >= formulas.length - 8;
  useEffect(() => {
    if (isNearEnd) onEnd?.();
    // Once for each page that comes near its end.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [isNearEnd, formulas.length]);
  const before = (items[0]?.start ?? top) - top;
  const after = rows.getTotalSize() - ((last?.end ?? top) - top);
  return (
    <ul ref={list} className={classes.list} style={{ paddingTop: before, paddingBottom: Math.max(after, 0) }} data-testid="formula-list">
      {items.map((item) => {
        const formula = formulas[item.index];
        return (
          formula && (
            <FormulaRow key={formula.id} formula={formula} actions={actions} index={item.index} measure={rows.measureElement} onTag={onTag} />
          )
        );
      })}
    </ul>
  );
}

type ListActions = ReturnType<typeof useListActions>;

function useListActions() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const tellFailure = useTellFailure();
  const attempt = async <T,>(act: () => Promise<T>): Promise<T | undefined> => {
    try {
      const result = await act();
      await client.invalidateQueries({ queryKey: ['formulas'] });
      return result;
    } catch (error) {
      tellFailure(error);
      return undefined;
    }
  };
  const open = (record: FormulaRecord | undefined) => {
    if (record) void navigate(`/formulas/${record.id}`);
  };
  const restore = (id: string) => attempt(() => answered(api.POST('/api/formulas/{formula_id}/restore', at(id))));
  return {
    restore,
    create: async () =>
      open(
        await attempt(async () =>
          answered(api.POST('/api/formulas', { body: await answered(api.GET('/api/starting-formula')) })),
        ),
      ),
    /** Begin with a formula that was made elsewhere. */
    begin: async (formula: Formula) => open(await attempt(() => answered(api.POST('/api/formulas', { body: formula })))),
    duplicate: (formula: FormulaSummary) =>
      attempt(() =>
        answered(
          api.POST('/api/formulas/{formula_id}/duplicate', {
            ...at(formula.id),
            body: { name: `${formula.name.slice(0, 112)} (copy)` },
          }),
        ),
      ),
    archive: async (formula: FormulaSummary) => {
      const gone = await attempt(() => answered(api.DELETE('/api/formulas/{formula_id}', at(formula.id))));
      if (gone !== undefined) showArchived(formula, restore);
    },
    read: async (file: File | null) => {
      if (file === null) return;
      const text = await file.text();
      open(
        await attempt(() =>
          answered(
            api.POST('/api/formulas/import', {
              body: text as unknown as undefined,
              bodySerializer: () => text,
              headers: { 'content-type': 'application/json' },
            }),
          ),
        ),
      );
    },
  };
}

function showArchived(formula: { id: string; name: string }, restore: (id: string) => Promise<unknown>) {
  const notice = notifications.show({
    autoClose: 15_000,
    message: (
      <>
        “{formula.name}” is archived.{' '}
        <Button
          size="compact-sm"
          onClick={() => {
            notifications.hide(notice);
            void restore(formula.id);
          }}
        >
          Undo
        </Button>
      </>
    ),
  });
}

/** Design archives a formula and comes here: say so, and offer the way back. */
function useArchivedNotice(restore: (id: string) => Promise<unknown>) {
  const location = useLocation();
  const navigate = useNavigate();
  const archive = (location.state as { archive?: { id: string; name: string } } | null)?.archive;
  useEffect(() => {
    if (archive === undefined) return;
    showArchived(archive, restore);
    void navigate('.', { replace: true, state: null });
    // Once for each arrival.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [archive?.id]);
}

interface FormulaRowProps {
  formula: FormulaSummary;
  actions: ListActions;
  index: number;
  measure: (element: Element | null) => void;
  onTag: (tag: string) => void;
}

function FormulaRow({ formula, actions, index, measure, onTag }: FormulaRowProps) {
  const { purposes } = useReference();
  const purpose = purposes.find((known) => known.id === formula.purpose)?.name ?? formula.purpose;
  const isArchived = formula.archived_at !== null;
  return (
    <li className={classes.row} data-index={index} ref={measure}>
      <MiniLoaf id={formula.id} strata={formula.strata} />
      <div>
        {isArchived ? (
          <strong>{formula.name}</strong>
        ) : (
          <Link className={classes.name} to={`/formulas/${formula.id}`}>
            {formula.name}
          </Link>
        )}
        <div className={classes.oils}>{formula.strata.map((stratum) => stratum.name).join(' · ') || 'No oils yet'}</div>
        <Marks marks={formula.marks ?? []} />
        {(formula.tags ?? []).map((tag) => (
          <button key={tag} type="button" className={classes.tag} onClick={() => onTag(tag)} aria-label={`All with the tag ${tag}`}>
            {tag}
          </button>
        ))}
      </div>
      <div className={classes.facts}>
        <span className={classes.state} data-state={formula.state}>
          {STATE_WORDS[formula.state]}
        </span>
        <br />
        {purpose} · {formula.latest_version === 0 ? 'no version kept' : `version ${formula.latest_version}`}
        <br />
        changed{' '}
        {fullDate(formula.updated_at)}
      </div>
      <div className={classes.actions}>
        {isArchived ? (
          <Button size="compact-sm" onClick={() => void actions.restore(formula.id)}>
            Restore
          </Button>
        ) : (
          <MenuButton
            position="bottom-end"
            button={
              <button type="button" className={classes.more} aria-label={`More for ${formula.name}`}>
                <MoreIcon />
              </button>
            }
          >
            <Menu.Item onClick={() => void actions.duplicate(formula)}>Duplicate</Menu.Item>
            <Menu.Item component="a" href={`/api/formulas/${formula.id}/document`} download>
              Save as a file
            </Menu.Item>
            <Menu.Item onClick={() => void actions.archive(formula)}>Archive</Menu.Item>
          </MenuButton>
        )}
      </div>
    </li>
  );
}

const MARK_SHAPES: Record<string, string> = { in: '●', below: '▼', above: '▲' };

/** Where the qualities stand, small: a dot in range, a point to the side where it is not. */
function Marks({ marks }: { marks: NonNullable<FormulaSummary['marks']> }) {
  const { qualities } = useReference();
  if (marks.length === 0) return null;
  const words: Record<string, string> = { in: 'in range', below: 'below range', above: 'above range' };
  const told = marks.map((mark) => {
    const name = qualities.find((one) => one.id === mark.quality)?.name ?? mark.quality;
    return [name, formatNumber(mark.points, 0), words[mark.standing] ?? ''].filter(Boolean).join(' ');
  });
  return (
    <span className={classes.marks} role="img" aria-label={told.join('; ')} title={told.join('\n')}>
      {marks.map((mark) => (
        <span key={mark.quality} data-standing={mark.standing}>
          {MARK_SHAPES[mark.standing] ?? '○'}
        </span>
      ))}
    </span>
  );
}

interface NothingProps {
  search: string;
  isNarrowed: boolean;
  isArchived: boolean;
  onCreate: () => void;
}

function Nothing({ search, isNarrowed, isArchived, onCreate }: NothingProps) {
  const isDemo = useHealth()?.demo ?? false;
  if (search !== '') {
    return (
      <div className={classes.empty}>
        <h2>Nothing matches “{search}”</h2>
        <p>Search looks at names, tags, notes and oils. Try one word less.</p>
      </div>
    );
  }
  if (isNarrowed) {
    return (
      <div className={classes.empty}>
        <h2>Nothing of that kind</h2>
        <p>Choose another purpose or state.</p>
      </div>
    );
  }
  if (isArchived) {
    return (
      <div className={classes.empty}>
        <h2>Nothing is archived</h2>
        <p>Formulas you archive wait here until you restore them.</p>
      </div>
    );
  }
  return (
    <div className={classes.empty}>
      <h2>No formulas yet</h2>
      <p>
        Start one with the oils you have.
        {isDemo
          ? ' Or reset the demo world from the menu at the top.'
          : ' To look around first, stop Sapolin and start it with ./run demo.'}
      </p>
      <Button variant="filled" onClick={onCreate}>
        New formula
      </Button>
    </div>
  );
}
