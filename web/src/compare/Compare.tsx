import { Button } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useQueries, useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';

import { answered, api, ApiFailure } from '../api/client';
import { at, useReference } from '../api/queries';
import type { Comparison, Formula, FormulaRecord } from '../api/types';
import { WithFormula } from '../app/WithFormula';
import { ChainMap } from '../design/scales/ChainMap';
import { ResultContext } from '../design/scales/ResultContext';
import { HatchDefs } from '../design/HatchDefs';
import { Panel } from '../design/Panel';
import { formatChange, formatNumber } from '../design/quantity';
import { useTellFailure } from '../app/showFailure';
import { ExplanationDrawer } from '../design/ExplanationDrawer';
import { FormulaPicker } from '../formulas/FormulaPicker';
import { FormulaStages } from '../formulas/FormulaStages';
import { Overlay } from './Overlay';
import { NewTrial } from '../trials/NewTrial';
import { TrialSet } from './TrialSet';
import classes from './Compare.module.css';

const MOST = 6;

/** What is compared: a formula's draft, or one of its versions (`id:3`). */
interface Chosen {
  key: string;
  label: string;
  formula: Formula;
}

/** A formula beside its versions and other formulas, and sets of single changes to make. */
export function Compare() {
  return <WithFormula>{(record) => <OpenCompare record={record} />}</WithFormula>;
}

function OpenCompare({ record }: { record: FormulaRecord }) {
  const [params, setParams] = useSearchParams();
  const [onlyDifferent, setOnlyDifferent] = useState(false);
  const [explained, setExplained] = useState<[column: number, quantity: string] | null>(null);
  const keys = (params.get('with') ?? record.id).split(',').filter(Boolean).slice(0, MOST);
  const choose = (next: string[]) => setParams({ with: next.join(',') }, { replace: true });
  const { chosen, versionsOf } = useChosen(keys);
  const body = useMemo(
    () => ({ formulas: chosen.map(({ label, formula }) => ({ label, formula })) }),
    [chosen],
  );
  const { data: comparison, error } = useQuery({
    queryKey: ['compare', body],
    queryFn: () => answered(api.POST('/api/compare', { body })),
    enabled: chosen.length > 0,
    placeholderData: (previous) => previous,
    retry: false,
  });
  useDocumentTitle(`Compare ${record.formula.name} · Sapolin`);
  const first = chosen[0];

  return (
    <div className={classes.page}>
      <HatchDefs />
      <div className={classes.top}>
        <h1>{record.formula.name}</h1>
        <FormulaStages formulaId={record.id} />
        <span className={classes.break} />
        {chosen.map((one, index) => (
          <span key={one.key} className={classes.column} data-testid={`compared-${index + 1}`}>
            {index === 0 && <b title="All others are compared with it">◎</b>} {one.label}
            {index > 0 && (
              <button
                type="button"
                aria-label={`Hold the others against ${one.label}`}
                title="Hold the others against it"
                onClick={() => choose([one.key, ...keys.filter((key) => key !== one.key)])}
              >
                ◎
              </button>
            )}
            <button
              type="button"
              aria-label={`Leave out ${one.label}`}
              onClick={() => choose(keys.filter((key) => key !== one.key))}
            >
              ×
            </button>
          </span>
        ))}
        {keys.length < MOST && (
          <FormulaPicker
            testId="add-compared"
            complete
            without={keys}
            others={versionsOf.flatMap(({ id, name, numbers }) =>
              numbers.map((number) => ({
                value: `${id}:${number}`,
                label: `${name}, version ${number}`,
                group: `Versions of ${name}`,
              })),
            )}
            onPick={(key) => choose([...keys, key])}
          >
            Compare with …
          </FormulaPicker>
        )}
        <span className={classes.spring} />
        <Download body={body} kind="csv" />
        <Download body={body} kind="pdf" />
      </div>
      {error !== null && (
        <p className={classes.refused} role="alert">
          {error instanceof ApiFailure && error.problems.length > 0
            ? 'One of these cannot be calculated yet: finish it in Design, or leave it out.'
            : error.message}
        </p>
      )}
      {chosen.length === 0 && <p className={classes.none}>Choose two to six formulas or versions to see side by side.</p>}
      {comparison && comparison.columns.length === chosen.length && (
        <div className={classes.columns}>
          <Panel
            title="Side by side"
            aside={
              <label className={classes.check}>
                <input
                  type="checkbox"
                  checked={onlyDifferent}
                  onChange={(event) => setOnlyDifferent(event.currentTarget.checked)}
                />
                only what differs
              </label>
            }
          >
            <SideBySide comparison={comparison} onlyDifferent={onlyDifferent} />
            <div className={classes.maps}>
              {comparison.columns.map((column, index) => (
                <ResultContext
                  key={column.label + String(index)}
                  value={{ result: column.result, isStale: false, explain: (quantity) => setExplained([index, quantity]) }}
                >
                  <ChainMap
                    title={column.label}
                    reference={index === 0 ? null : (comparison.columns[0]?.result ?? null)}
                    referenceName={index === 0 ? null : 'the first'}
                  />
                </ResultContext>
              ))}
            </div>
          </Panel>
          <div className={classes.right}>
            <Overlay columns={comparison.columns} />
            {first && <TrialSet base={first.formula} />}
            {first && <NewTrial key={keys[0]} formulaId={keys[0]?.split(':')[0] ?? ''} formula={first.formula} />}
          </div>
        </div>
      )}
      <ExplanationDrawer
        quantity={explained?.[1] ?? null}
        formula={explained ? (chosen[explained[0]]?.formula ?? null) : null}
        stale={false}
        onClose={() => setExplained(null)}
      />
    </div>
  );
}

/** Load what the address names: explanation copies and versions, in its order. */
function useChosen(keys: string[]) {
  const ids = [...new Set(keys.map((key) => key.split(':')[0] ?? ''))];
  const records = useQueries({
    queries: ids.map((id) => ({
      queryKey: ['formula', id],
      queryFn: () => answered(api.GET('/api/formulas/{formula_id}', at(id))),
    })),
  });
  const versions = useQueries({
    queries: ids.map((id) => ({
      queryKey: ['versions', id],
      queryFn: () => answered(api.GET('/api/formulas/{formula_id}/versions', at(id))),
    })),
  });
  const chosen: Chosen[] = keys.flatMap((key) => {
    const [id = '', number] = key.split(':');
    const position = ids.indexOf(id);
    const record = records[position]?.data;
    if (record === undefined) return [];
    if (number === undefined) return [{ key, label: record.formula.name, formula: record.formula }];
    const version = versions[position]?.data?.find((one) => String(one.number) === number);
    return version ? [{ key, label: `${version.formula.name}, version ${number}`, formula: version.formula }] : [];
  });
  const versionsOf = ids.flatMap((id, position) => {
    const record = records[position]?.data;
    const numbers = versions[position]?.data?.map((version) => version.number) ?? [];
    return record && numbers.length > 0 ? [{ id, name: record.formula.name, numbers }] : [];
  });
  return { chosen, versionsOf };
}

function SideBySide({ comparison, onlyDifferent }: { comparison: Comparison; onlyDifferent: boolean }) {
  const { qualities } = useReference();
  const rows = comparison.rows.filter((row) => row.differs || !onlyDifferent);
  const sorted = [...rows.filter((row) => row.differs), ...rows.filter((row) => !row.differs)];
  const outside = (column: number, name: string) => {
    const quality = qualities.find((known) => known.name === name);
    return comparison.columns[column]?.result.qualities.find((quantity) => quantity.quality === quality?.id)?.outside_by ?? 0;
  };
  return (
    <div className={classes.scroll} role="region" aria-label="Results side by side">
      <table className={classes.table} data-testid="comparison">
        <thead>
          <tr>
            <th scope="col">What differs stands first</th>
            {comparison.columns.map((column, index) => (
              <th key={column.label + String(index)} scope="col">
                {column.label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {sorted.map((row) => {
            const base = row.values[0];
            return (
              <tr key={row.group + row.name} data-differs={row.differs}>
                <th scope="row">
                  {row.name} <small>{row.unit}</small>
                </th>
                {row.values.map((value, index) => {
                  const change =
                    index > 0 && typeof value === 'number' && typeof base === 'number' ? formatChange(value - base, 1) : '';
                  const out = row.group === 'Qualities' ? outside(index, row.name) : 0;
                  return (
                    <td key={index} className={typeof value === 'string' ? classes.words : undefined}>
                      {value === null ? '–' : typeof value === 'number' ? formatNumber(value, 2, row.group === 'Qualities' ? 1 : 0) : value}
                      {index > 0 && typeof value !== 'string' && <small className={classes.change}>{change}</small>}
                      {out > 0 && <small className={classes.out}>out of range</small>}
                    </td>
                  );
                })}
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

function Download({ body, kind }: { body: { formulas: { label: string; formula: Formula }[] }; kind: 'csv' | 'pdf' }) {
  const tellFailure = useTellFailure();
  const [busy, setBusy] = useState(false);
  const save = async () => {
    setBusy(true);
    try {
      const answer = await fetch(`/api/compare/${kind}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(body),
      });
      if (!answer.ok) throw new ApiFailure(answer.status, 'refused', 'The comparison could not be written.');
      const link = document.createElement('a');
      link.href = URL.createObjectURL(await answer.blob());
      link.download = `comparison.${kind}`;
      link.click();
      URL.revokeObjectURL(link.href);
      notifications.show({ message: `comparison.${kind} is saved.` });
    } catch (error) {
      tellFailure(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Button
      size="compact-md"
      loading={busy}
      disabled={body.formulas.length === 0}
      onClick={() => void save()}
      data-testid={`download-${kind}`}
    >
      {kind.toUpperCase()}
    </Button>
  );
}
