import { Menu } from '@mantine/core';

import { answered, api } from '../../api/client';
import { useReference } from '../../api/queries';
import type { Additive, AdditiveLine, Formula } from '../../api/types';
import buttons from '../../design/buttons.module.css';
import { MenuButton } from '../../design/MenuButton';
import { PickOne } from '../../design/PickOne';
import { formatNumber, readAmount } from '../../design/quantity';
import { useSettings } from '../../app/settings';
import { useTellFailure } from '../../app/showFailure';
import { useBench } from '../BenchContext';
import { AddedBack } from './AddedBack';
import { AmountField } from './AmountField';
import classes from './Composition.module.css';

function changeLine(formula: Formula, index: number, change: Partial<AdditiveLine>): Formula {
  const lines = formula.additives.map((line, i) => (i === index ? { ...line, ...change } : line));
  return { ...formula, additives: lines };
}

/** What is added in small amounts, and what of it consumes lye. */
export function AdditivesTab() {
  const { draft } = useBench();
  const { additives, starting_additives } = useReference();
  const { weightUnit, weightUnits } = useSettings();
  const lines = draft.formula.additives;
  return (
    <>
      {lines.length === 0 && (
        <p className={classes.none}>
          Nothing yet. Acids and baking soda consume lye: Sapolin adds it back or shows how far the superfat rises.
        </p>
      )}
      <ul className={classes.entries} aria-label="Additives">
        {lines.map((line, index) => (
          <AdditiveEntry key={index} line={line} index={index} />
        ))}
      </ul>
      <PickOne
        label="Add an additive: sugar 1"
        choices={additives.map((additive) => ({
          id: additive.id,
          name: additive.name,
          synonyms: additive.synonyms,
          tag: `${additive.usual_minimum_percent}–${additive.usual_maximum_percent} %`,
          about: additive.effect,
        }))}
        onPick={(additive, typed) => {
          const line = starting_additives[additive];
          const amount = readAmount(typed, weightUnit.id, weightUnits);
          const said: Partial<AdditiveLine> = amount === null ? {} : { by: amount.isWeight ? 'weight_g' : 'percent_of_oils', value: amount.value };
          if (line) draft.edit((now) => ({ ...now, additives: [...now.additives, { ...line, ...said }] }));
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

const AMOUNTS: { by: AdditiveLine['by']; label: string }[] = [
  { by: 'percent_of_oils', label: 'percent of the oils' },
  { by: 'tsp_per_500_g', label: 'level teaspoons for 500 g of oils' },
  { by: 'weight_g', label: 'its weight' },
];

function AdditiveEntry({ line, index }: { line: AdditiveLine; index: number }) {
  const { draft, live } = useBench();
  const { additives } = useReference();
  const { weightUnit } = useSettings();
  const additive = additives.find((known) => known.id === line.additive);
  const name = additive?.name ?? line.additive;
  const isFresh = live.freshness === 'fresh' && live.result?.additives[index]?.additive === line.additive;
  const weighing = live.result?.weights;
  const tellFailure = useTellFailure();
  const give = async (to: AdditiveLine['by']) => {
    try {
      await draft.follow(
        (formula) => answered(api.POST('/api/amounts/additive', { body: { formula, index, to } })),
        (now, { by, value }) => changeLine(now, index, { by, value }),
      );
    } catch (error) {
      tellFailure(error);
    }
  };
  const consumed = isFresh ? live.result?.consumed.find((entry) => entry.field === `additives[${index}]`) : undefined;
  return (
    <li className={classes.entry} data-testid={`additive-${line.additive}`}>
      <header>
        <MenuButton
          button={
            <button type="button" className={classes.nameButton} title={usualOf(additive)}>
              {name} <span aria-hidden>▾</span>
            </button>
          }
        >
          <Menu.Label>Give its amount in</Menu.Label>
          {AMOUNTS.map(({ by, label }) => (
            <Menu.Item
              key={by}
              aria-current={line.by === by}
              onClick={() => void give(by)}
            >
              {label}
            </Menu.Item>
          ))}
        </MenuButton>
        <AmountField
          name={name}
          field={`additives[${index}].value`}
          byWeight={line.by === 'weight_g'}
          bySpoon={line.by === 'tsp_per_500_g'}
          value={line.value}
          change={(now, value) => changeLine(now, index, { value })}
        />
        <span className={classes.grams}>
          {isFresh && weighing && formatNumber(weighing.additives[index] ?? 0, weighing.lye_decimals)}
          {isFresh && <span> {weightUnit.id}</span>}
        </span>
        <button
          type="button"
          className={buttons.drop}
          aria-label={`Take out ${name}`}
          onClick={() =>
            draft.edit((now) => ({ ...now, additives: now.additives.filter((_, i) => i !== index) }))
          }
        >
          ×
        </button>
      </header>
      {additive?.consumer && (
        <AddedBack
          isOn={line.compensated}
          onChange={(compensated) => draft.edit((now) => changeLine(now, index, { compensated }))}
          consumed={consumed}
          testId={`add-back-${line.additive}`}
        />
      )}
    </li>
  );
}
