import { useReference } from '../../api/queries';
import type { Additive, AdditiveLine, Formula } from '../../api/types';
import { PickOne } from '../../shared/PickOne';
import { formatNumber } from '../../shared/quantity';
import { useSettings } from '../../shared/settings';
import { useBench } from '../BenchContext';
import { AmountField } from './AmountField';
import classes from './Pot.module.css';

function changeLine(formula: Formula, index: number, change: Partial<AdditiveLine>): Formula {
  const lines = formula.additives.map((line, i) => (i === index ? { ...line, ...change } : line));
  return { ...formula, additives: lines };
}

/** What is added in small amounts, and what of it eats lye. */
export function AdditivesTab() {
  const { draft } = useBench();
  const { additives } = useReference();
  const lines = draft.formula.additives;
  return (
    <>
      {lines.length === 0 && (
        <p className={classes.none}>
          Nothing yet. Acids and baking soda eat lye: Sapolin adds it back or shows how far the superfat rises.
        </p>
      )}
      <ul className={classes.entries} aria-label="Additives">
        {lines.map((line, index) => (
          <AdditiveEntry key={index} line={line} index={index} />
        ))}
      </ul>
      <PickOne
        label="Add an additive"
        choices={additives.map((additive) => ({
          id: additive.id,
          name: additive.name,
          synonyms: additive.synonyms,
          tag: `${additive.usual_minimum_percent}–${additive.usual_maximum_percent} %`,
          about: additive.effect,
        }))}
        onPick={(additive) => {
          const found = additives.find((known) => known.id === additive);
          draft.edit((now) => ({
            ...now,
            additives: [
              ...now.additives,
              {
                additive,
                by: 'percent_of_oils',
                value: found?.usual_minimum_percent ?? null,
                compensated: found?.eater !== '',
              },
            ],
          }));
        }}
        testId="add-additive"
      />
    </>
  );
}

function usualOf(additive: Additive | undefined): string | undefined {
  if (additive === undefined) return undefined;
  const { usual_minimum_percent: low, usual_maximum_percent: high, stage, cautions } = additive;
  return `${low} to ${high} % of oils is usual; goes in with: ${stage}. ${cautions}`;
}

function AdditiveEntry({ line, index }: { line: AdditiveLine; index: number }) {
  const { draft, live } = useBench();
  const { additives } = useReference();
  const { weightUnit } = useSettings();
  const additive = additives.find((known) => known.id === line.additive);
  const name = additive?.name ?? line.additive;
  const isFresh = live.freshness === 'fresh' && live.figures?.additives[index]?.additive === line.additive;
  const weighing = live.figures?.weighing;
  const eaten = isFresh ? live.figures?.eaten.find((entry) => entry.field === `additives[${index}]`) : undefined;
  return (
    <li className={classes.entry} data-testid={`additive-${line.additive}`}>
      <header>
        <span className={classes.name} title={usualOf(additive)}>
          {name}
        </span>
        <AmountField
          name={name}
          field={`additives[${index}].value`}
          byWeight={line.by === 'weight_g'}
          value={line.value}
          change={(now, value) => changeLine(now, index, { value })}
        />
        <span className={classes.grams}>
          {isFresh && weighing && formatNumber(weighing.additives[index] ?? 0, weighing.lye_decimals)}
          {isFresh && <span> {weightUnit.id}</span>}
        </span>
        <button
          type="button"
          className={classes.drop}
          aria-label={`Take out ${name}`}
          onClick={() =>
            draft.edit((now) => ({ ...now, additives: now.additives.filter((_, i) => i !== index) }))
          }
        >
          ×
        </button>
      </header>
      {additive?.eater && (
        <label className={classes.check}>
          <input
            type="checkbox"
            checked={line.compensated}
            onChange={(event) => {
              const { checked } = event.currentTarget;
              draft.edit((now) => changeLine(now, index, { compensated: checked }));
            }}
          />
          <span>
            Add the lye back
            {eaten &&
              (eaten.compensated
                ? `: ${formatNumber(eaten.naoh_equivalent_g, 1)} g NaOH, as ${formatNumber(eaten.salt_g, 1)} g ${eaten.salt}`
                : `; now the superfat rises ${formatNumber(eaten.superfat_points, 1)}`)}
          </span>
        </label>
      )}
    </li>
  );
}
