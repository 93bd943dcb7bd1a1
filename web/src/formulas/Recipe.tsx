import { Button } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { Link } from 'react-router';

import { calculate, useOilsAndMaterials, useReference, useSafetySheet } from '../api/queries';
import type { FormulaRecord, FormulaResult } from '../api/types';
import { useWorkshop } from '../api/workshop';
import { useSettings } from '../app/settings';
import { WithFormula } from '../app/WithFormula';
import { fullDate } from '../design/dates';
import { formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import { saidOf } from '../design/units';
import { follow } from '../sync/tabs';
import classes from './Recipe.module.css';

/** A formula on one sheet of paper: what to weigh, and what to mind. */
export function Recipe() {
  return <WithFormula>{(record) => <OpenRecipe record={record} />}</WithFormula>;
}

function OpenRecipe({ record }: { record: FormulaRecord }) {
  const { formula } = record;
  const { weightUnit } = useSettings();
  const { purposes } = useReference();
  const { data: report } = useQuery({
    queryKey: ['recipe', formula, weightUnit.id],
    queryFn: () => calculate(formula, weightUnit.id),
  });
  const workshop = useWorkshop();
  const firstAid = useSafetySheet()?.find((one) => one.id === 'first_aid');
  // A last edit may have been on its way when this page was opened: what is printed is what is kept.
  const client = useQueryClient();
  useEffect(
    () => follow(`/api/formulas/${record.id}`, () => void client.invalidateQueries({ queryKey: ['formula', record.id] })),
    [client, record.id],
  );
  // The browser names the printed file after the page.
  useDocumentTitle(formula.name);
  if (report === undefined) return null;
  const { result, diagnostics } = report;
  const purpose = purposes.find((one) => one.id === formula.purpose)?.name ?? formula.purpose;
  return (
    <div className={classes.page}>
      <div className={classes.tools}>
        <Button component={Link} to={`/formulas/${record.id}`}>
          ← Design
        </Button>
        <Button variant="filled" onClick={() => window.print()} data-testid="print" disabled={result === null}>
          Print
        </Button>
      </div>
      <article className={classes.sheet} data-testid="recipe">
        <header>
          <h1>{formula.name}</h1>
          <p>
            {purpose} · {record.latest_version > 0 ? `after version ${record.latest_version}` : 'draft'}
            {formula.free_of.length > 0 && <> · free from {formula.free_of.join(', ')}</>} · {fullDate(new Date())}
          </p>
        </header>
        {result !== null &&
          diagnostics
            .filter((one) => one.severity === 'problem')
            .map((one) => (
              <p key={one.code + one.path} className={classes.danger} role="alert">
                <b>Danger.</b> <Sentence>{saidOf(one)}</Sentence>
              </p>
            ))}
        {result === null ? (
          <p className={classes.refused}>
            This formula cannot be made yet. {diagnostics[0] && <Sentence>{saidOf(diagnostics[0])}</Sentence>}
          </p>
        ) : (
          <Weights record={record} result={result} />
        )}
        {result !== null && diagnostics.length > 0 && (
          <section>
            <h2>To know</h2>
            <ul>
              {diagnostics.map((one) => (
                <li key={one.code + one.path}>
                  {one.severity !== 'note' && <b>{one.severity === 'problem' ? 'Problem: ' : 'Warning: '}</b>}
                  <Sentence>{saidOf(one)}</Sentence>
                </li>
              ))}
            </ul>
          </section>
        )}
        {formula.notes !== '' && (
          <section>
            <h2>Notes</h2>
            <p className={classes.notes}>{formula.notes}</p>
          </section>
        )}
        <footer>
          <p>
            <b>Lye burns.</b> Gloves, goggles, long sleeves, nobody else near. Lye into the liquid, slowly, never the reverse.{' '}
            {firstAid?.points.join(' ')} Emergency: {workshop?.emergency_number ? <b>{workshop.emergency_number}</b> : 'your local number'}
            {workshop?.poison_number ? (
              <>
                ; poison service: <b>{workshop.poison_number}</b>
              </>
            ) : null}
            .
          </p>
          <p>Calculated by Sapolin from typical values of each oil. Local rules for making and selling come first.</p>
        </footer>
      </article>
    </div>
  );
}

function Weights({ record, result }: { record: FormulaRecord; result: FormulaResult }) {
  const { formula } = record;
  const { weights } = result;
  const { qualities } = useReference();
  const oils = useOilsAndMaterials();
  const added = { start: '', at_trace: 'at trace', after_cook: 'after the cook' };
  const row = (name: string, weight: number | null | undefined, decimals: number, note = '') => (
    <tr key={name + note}>
      <td>{name}</td>
      <td className={classes.number}>{formatNumber(weight ?? 0, decimals)}</td>
      <td className={classes.note}>{note}</td>
      <td className={classes.box} />
    </tr>
  );
  const interval = result.lye.superfat_interval;
  const lyes = (
    [
      ['NaOH', weights.naoh, weights.naoh_solution ?? null, formula.lye.naoh_purity_percent],
      ['KOH', weights.koh, weights.koh_solution ?? null, formula.lye.koh?.purity_percent],
    ] as const
  ).filter(([, dry]) => dry > 0);
  return (
    <>
      <table className={classes.weights}>
        <thead>
          <tr>
            <th scope="col">To weigh</th>
            <th scope="col" className={classes.number}>
              {weights.unit}
            </th>
            <th scope="col" className={classes.note}>
              share or purity
            </th>
            <th scope="col">done</th>
          </tr>
        </thead>
        <tbody>
          {result.oils.map((oil, i) => {
            const line = formula.blend.lines[i];
            const note = [`${formatNumber(oil.share_percent, 1, 0)} %`, line === undefined ? '' : added[line.added]].filter(Boolean).join(', ');
            return row(oil.name, weights.oils[i], weights.decimals, note);
          })}
          {row('All oils', weights.oils_total, weights.decimals, 'together')}
          {lyes.map(([name, dry, solution, purity]) =>
            solution === null
              ? row(`${name}, caustic`, dry, weights.lye_decimals, `${formatNumber(purity ?? 0, 1, 0)} % pure`)
              : // What is weighed is the solution: its water is not weighed again.
                row(`${name} master lye, caustic`, solution, weights.lye_decimals, `holds ${formatNumber(dry, weights.lye_decimals)} ${weights.unit} ${name}`),
          )}
          {row(result.liquids.length > 0 || result.lye.master ? 'Plain water' : 'Water', weights.water, weights.decimals, `lye ${formatNumber(result.water.lye_concentration_percent, 1)} %`)}
          {result.liquids.map((liquid, i) => row(liquid.name, weights.liquids[i], weights.decimals))}
          {result.additives.map((additive, i) => row(additive.name, weights.additives[i], weights.lye_decimals))}
        </tbody>
      </table>
      <p>
        Superfat {formatNumber(formula.superfat_percent ?? 0, 1, 0)} %, expected {formatNumber(interval.low_percent, 1)} to{' '}
        {formatNumber(interval.high_percent, 1)} % (95 % range).
        {result.bar && (
          <>
            {' '}
            Unmould after about {formatNumber(result.bar.unmould_hours_low, 0)} to {formatNumber(result.bar.unmould_hours_high, 0)} h; fit for use
            after about {formatNumber(result.bar.usable_weeks, 0)} weeks (estimates).
          </>
        )}
      </p>
      <p className={classes.qualities}>
        {result.qualities.map((one) => (
          <span key={one.quality}>
            {qualities.find((quality) => quality.id === one.quality)?.name} <b>{formatNumber(one.points, 0)}</b>
          </span>
        ))}
      </p>
      <Allergens ids={formula.blend.lines.map((line) => line.oil)} oils={oils} />
    </>
  );
}

function Allergens({ ids, oils }: { ids: string[]; oils: { id: string; name: string; allergens: string }[] }) {
  const held = oils.filter((oil) => ids.includes(oil.id) && oil.allergens !== '');
  if (held.length === 0) return null;
  return (
    <p>
      <b>Allergens:</b> {held.map((oil) => `${oil.name} (${oil.allergens})`).join(', ')}.
    </p>
  );
}
