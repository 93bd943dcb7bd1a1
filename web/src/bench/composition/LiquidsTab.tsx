import { answered, api } from '../../api/client';
import { useReference } from '../../api/queries';
import type { Formula, LiquidLine } from '../../api/types';
import buttons from '../../design/buttons.module.css';
import { PickOne } from '../../design/PickOne';
import { formatNumber, readAmount } from '../../design/quantity';
import { SelectField } from '../../design/SelectField';
import { useSettings } from '../../app/settings';
import { useTellFailure } from '../../app/showFailure';
import { Sentence } from '../../design/Sentence';
import { saidOf, useWeights } from '../../design/units';
import { problemAt, useBench } from '../BenchContext';
import { AddedBack } from './AddedBack';
import { AmountField } from './AmountField';
import classes from './Composition.module.css';

const USES: { value: LiquidLine['use']; label: string }[] = [
  { value: 'dissolves_lye', label: 'dissolves lye' },
  { value: 'into_oils', label: 'into oils' },
  { value: 'at_trace', label: 'at trace' },
];

const AMOUNTS: { value: LiquidLine['by']; label: string }[] = [
  { value: 'percent_of_water', label: '% of water' },
  { value: 'percent_of_oils', label: '% of oils' },
  { value: 'weight_g', label: 'by weight' },
];

function changeLine(formula: Formula, index: number, change: Partial<LiquidLine>): Formula {
  const lines = formula.liquids.map((line, i) => (i === index ? { ...line, ...change } : line));
  return { ...formula, liquids: lines };
}

/** Milk, tea, aloe and the rest in the place of water. */
export function LiquidsTab() {
  const { draft, live } = useBench();
  const { liquids, starting_liquids } = useReference();
  const { weightUnit, weightUnits } = useSettings();
  const lines = draft.formula.liquids;
  const together = problemAt(live.problems, 'liquids');
  return (
    <>
      {lines.length === 0 && (
        <p className={classes.none}>
          Plain water, distilled at best. Milk, tea or aloe can take its place: their water counts as water, their fat
          joins the superfat.
        </p>
      )}
      <ul className={classes.entries} aria-label="Liquids">
        {lines.map((line, index) => (
          <LiquidEntry key={index} line={line} index={index} />
        ))}
      </ul>
      {together && (
        <p className={classes.trouble}>
          <Sentence>{saidOf(together)}</Sentence>
        </p>
      )}
      <PickOne
        label="Add a liquid: goat milk 50"
        choices={liquids.map((liquid) => ({
          id: liquid.id,
          name: liquid.name,
          synonyms: liquid.synonyms,
          tag: liquid.allergens,
          about: liquid.brings,
        }))}
        onPick={(liquid, typed) => {
          const line = starting_liquids[liquid];
          const amount = readAmount(typed, weightUnit.id, weightUnits);
          const said: Partial<LiquidLine> = amount === null ? {} : { by: amount.isWeight ? 'weight_g' : 'percent_of_water', value: amount.value };
          if (line) draft.edit((now) => ({ ...now, liquids: [...now.liquids, { ...line, ...said }] }));
        }}
        testId="add-liquid"
      />
    </>
  );
}

function LiquidEntry({ line, index }: { line: LiquidLine; index: number }) {
  const weights = useWeights();
  const { draft, live } = useBench();
  const { liquids } = useReference();
  const { weightUnit } = useSettings();
  const liquid = liquids.find((known) => known.id === line.liquid);
  const result = live.result?.liquids[index];
  const isMine = live.freshness === 'fresh' && result?.liquid === line.liquid;
  const weighing = live.result?.weights;
  const consumed = live.result?.consumed.find((one) => one.field === `liquids[${index}]`);
  const tellFailure = useTellFailure();
  const give = async (to: LiquidLine['by']) => {
    try {
      await draft.follow(
        (formula) => answered(api.POST('/api/amounts/liquid', { body: { formula, index, to } })),
        (now, { by, value }) => changeLine(now, index, { by, value }),
      );
    } catch (error) {
      tellFailure(error);
    }
  };
  return (
    <li className={classes.entry} data-testid={`liquid-${line.liquid}`}>
      <header>
        <span className={classes.name}>{liquid?.name ?? line.liquid}</span>
        <AmountField
          name={liquid?.name ?? line.liquid}
          field={`liquids[${index}].value`}
          byWeight={line.by === 'weight_g'}
          value={line.value}
          change={(now, value) => changeLine(now, index, { value })}
        />
        <span className={classes.grams}>
          {isMine && weighing && formatNumber(weighing.liquids[index] ?? 0, weighing.decimals)}
          {isMine && <span> {weightUnit.id}</span>}
        </span>
        <button
          type="button"
          className={buttons.drop}
          aria-label={`Take out ${liquid?.name ?? line.liquid}`}
          onClick={() =>
            draft.edit((now) => ({ ...now, liquids: now.liquids.filter((_, i) => i !== index) }))
          }
        >
          ×
        </button>
      </header>
      <div className={classes.controls}>
        <SelectField
          label="Measured as"
          value={line.by}
          options={AMOUNTS}
          onChange={(to) => void give(to)}
        />
        <SelectField
          label="What it does"
          value={line.use}
          options={USES}
          onChange={(use) => draft.edit((now) => changeLine(now, index, { use }))}
        />
      </div>
      {liquid?.consumer && (
        <AddedBack
          isOn={line.compensated}
          onChange={(compensated) => draft.edit((now) => changeLine(now, index, { compensated }))}
          consumed={isMine ? consumed : undefined}
          testId={`add-back-${line.liquid}`}
        />
      )}
      {isMine && (
        <p className={classes.holds}>
          Brings {weights.tell(result.water_g)} water, {weights.tell(result.fat_g, 1)} fat,{' '}
          {weights.tell(result.sugar_g, 1)} sugar, {weights.tell(result.protein_g, 1)} protein.
          {result.cautions && ` ${result.cautions}`}
        </p>
      )}
    </li>
  );
}
