import { Button, FileButton, Menu, SegmentedControl, TextInput } from '@mantine/core';
import { useDebouncedValue, useDocumentTitle } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link, useLocation, useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import { at, useFormulas, useHealth, useReference } from '../api/queries';
import type { Formula, FormulaRecord, FormulaSummary } from '../api/types';
import { HatchDefs } from '../design/HatchDefs';
import { MoreIcon } from '../design/icons';
import { useTellFailure } from '../app/showFailure';
import classes from './FormulaList.module.css';
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

/** Every formula, to open, copy, archive or restore. */
export function FormulaList() {
  const [search, setSearch] = useState('');
  const [shelf, setShelf] = useState<'kept' | 'archived'>('kept');
  const [reading, setReading] = useState(false);
  const [words] = useDebouncedValue(search, 120);
  const { data: formulas } = useFormulas(words, shelf === 'archived');
  const actions = useListActions();
  useArchivedNotice(actions.restore);
  useDocumentTitle('Formulas · Sapolin');

  return (
    <div className={classes.page}>
      <HatchDefs />
      <div className={classes.top}>
        <h1>Formulas</h1>
        <TextInput
          className={classes.search}
          value={search}
          onChange={(event) => setSearch(event.currentTarget.value)}
          placeholder="Search names, notes and oils"
          aria-label="Search formulas"
          type="search"
          data-testid="search"
        />
        <SegmentedControl
          value={shelf}
          onChange={setShelf}
          data={[
            { value: 'kept', label: 'Kept' },
            { value: 'archived', label: 'Archived' },
          ]}
        />
        <FileButton onChange={(file) => void actions.read(file)} accept="application/json,.json">
          {(props) => <Button {...props}>Read a file</Button>}
        </FileButton>
        <Button onClick={() => setReading(true)} data-testid="read-recipe">
          Read a recipe
        </Button>
        <Button variant="filled" onClick={() => void actions.create()} data-testid="new-formula">
          New formula
        </Button>
      </div>
      {formulas !== undefined && formulas.length === 0 && (
        <Nothing search={words} isArchived={shelf === 'archived'} onCreate={() => void actions.create()} />
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
      <ul className={classes.list} data-testid="formula-list">
        {formulas?.map((formula) => (
          <FormulaRow key={formula.id} formula={formula} actions={actions} />
        ))}
      </ul>
    </div>
  );
}

type ListActions = ReturnType<typeof useListActions>;

function useListActions() {
  const { starting_formula } = useReference();
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
    create: async () => open(await attempt(() => answered(api.POST('/api/formulas', { body: starting_formula })))),
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

/** The bench puts a formula aside and comes here: say so, and offer the way back. */
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

function FormulaRow({ formula, actions }: { formula: FormulaSummary; actions: ListActions }) {
  const { purposes } = useReference();
  const purpose = purposes.find((known) => known.id === formula.purpose)?.name ?? formula.purpose;
  const isArchived = formula.archived_at !== null;
  return (
    <li className={classes.row}>
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
      </div>
      <div className={classes.facts}>
        <span className={classes.state} data-state={formula.state}>
          {STATE_WORDS[formula.state]}
        </span>
        <br />
        {purpose} · {formula.latest_version === 0 ? 'no version kept' : `version ${formula.latest_version}`}
        <br />
        changed{' '}
        {new Date(formula.updated_at).toLocaleDateString([], { day: 'numeric', month: 'short', year: 'numeric' })}
      </div>
      <div className={classes.actions}>
        {isArchived ? (
          <Button size="compact-sm" onClick={() => void actions.restore(formula.id)}>
            Restore
          </Button>
        ) : (
          <Menu position="bottom-end">
            <Menu.Target>
              <button type="button" className={classes.more} aria-label={`More for ${formula.name}`}>
                <MoreIcon />
              </button>
            </Menu.Target>
            <Menu.Dropdown>
              <Menu.Item onClick={() => void actions.duplicate(formula)}>Duplicate</Menu.Item>
              <Menu.Item component="a" href={`/api/formulas/${formula.id}/document`} download>
                Save as a file
              </Menu.Item>
              <Menu.Item onClick={() => void actions.archive(formula)}>Archive</Menu.Item>
            </Menu.Dropdown>
          </Menu>
        )}
      </div>
    </li>
  );
}

interface NothingProps {
  search: string;
  isArchived: boolean;
  onCreate: () => void;
}

function Nothing({ search, isArchived, onCreate }: NothingProps) {
  const isDemo = useHealth()?.demo ?? false;
  if (search !== '') {
    return (
      <div className={classes.empty}>
        <h2>Nothing matches “{search}”</h2>
        <p>Search looks at names, notes and oils. Try one word less.</p>
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
