import { useReference } from '../api/queries';
import type { Formula, WaterRule } from '../api/types';
import { NumberField } from '../shared/NumberField';
import { Panel } from '../shared/Panel';
import { formatNumber, parseNumber } from '../shared/quantity';
import { useSettings } from '../shared/settings';
import { problemAt, useBench } from './BenchContext';
import classes from './LyePanel.module.css';

interface WaterWay {
  rule: WaterRule;
  label: string;
  unit: string;
  decimals: number;
  step: number;
}

const WATER_WAYS: WaterWay[] = [
  { rule: 'lye_concentration_percent', label: 'Lye strength', unit: '%', decimals: 1, step: 0.5 },
  { rule: 'water_to_lye', label: 'Water : lye', unit: ': 1', decimals: 2, step: 0.05 },
  { rule: 'percent_of_oils', label: 'Water, % of oils', unit: '%', decimals: 1, step: 0.5 },
];

/** Lye and water: what is set, and the two weights that follow, never shown as today's when they are not. */
export function LyePanel() {
  const { draft, live, explain } = useBench();
  const { formula } = draft;
  const { full_water_percent_of_oils: fullWater } = useReference();
  const { figures } = live;
  const isStale = live.freshness === 'stopped' || live.freshness === 'unreachable';
  const discount = figures ? 100 - (100 * figures.water.percent_of_oils) / fullWater : 0;
  const unsafe = figures?.cautions.filter((caution) => caution.severity === 'unsafe') ?? [];

  return (
    <Panel title="Lye and water" aside="NaOH, weighed as bought">
      <div className={classes.fields}>
        <SetNumber
          label="Superfat"
          field="superfat_percent"
          value={formula.superfat_percent}
          step={0.5}
          change={(now, value) => ({ ...now, superfat_percent: value })}
        />
        <SetNumber
          label="NaOH purity"
          field="lye.naoh_purity_percent"
          value={formula.lye.naoh_purity_percent}
          step={0.5}
          change={(now, value) => ({ ...now, lye: { naoh_purity_percent: value } })}
        />
        {WATER_WAYS.map((way) => (
          <WaterField key={way.rule} way={way} />
        ))}
      </div>
      <div className={`${classes.results} ${isStale ? 'stale' : ''}`} aria-busy={live.freshness === 'pending'}>
        <button type="button" className={`${classes.result} ${classes.caustic} hatched`} onClick={() => explain('naoh_g')}>
          <span className={classes.label}>
            Lye to weigh <span>caustic</span>
          </span>
          <Weight value={figures?.weighing.naoh} decimals={figures?.weighing.lye_decimals} testId="lye-to-weigh" />
          <AlsoIn grams={figures?.lye.naoh_g} decimals={2} />
        </button>
        <button type="button" className={`${classes.result} hatched`} onClick={() => explain('water_g')}>
          <span className={classes.label}>Water to weigh</span>
          <Weight value={figures?.weighing.water} decimals={figures?.weighing.decimals} testId="water-to-weigh" />
          <AlsoIn grams={figures?.water.water_g} decimals={1} />
        </button>
      </div>
      {isStale && figures && (
        <div className={classes.last} role="status" data-testid="last-good">
          <strong>Last good figures,</strong>{' '}
          {live.freshness === 'unreachable' ? 'no answer from the server.' : 'not those of what is entered now.'}
        </div>
      )}
      {!isStale &&
        unsafe.map((danger) => (
          <div key={danger.code} className={classes.danger} role="alert">
            <strong>{danger.message}</strong> {danger.remedy}
          </div>
        ))}
      {!isStale && figures && unsafe.length === 0 && (
        <div className={classes.caution}>
          Gloves and goggles. Lye into the liquid, slowly, never the reverse.
          {discount > 1 && ` ${formatNumber(discount, 0)} % less than full water.`}
        </div>
      )}
    </Panel>
  );
}

interface SetNumberProps {
  label: string;
  field: string;
  value: number | null;
  step: number;
  change: (formula: Formula, value: number | null) => Formula;
}

function SetNumber({ label, field, value, step, change }: SetNumberProps) {
  const { draft, live } = useBench();
  const problem = problemAt(live.problems, field);
  return (
    <NumberField
      showLabel
      label={label}
      value={value}
      unit="%"
      format={(shown) => formatNumber(shown, 2, 1)}
      parse={parseNumber}
      unread={draft.unread[field]}
      onUnread={(text) => draft.setUnread(field, text)}
      onChange={(next) => draft.edit((now) => change(now, next), field)}
      onLeave={draft.closeStep}
      step={step}
      problem={problem && `${problem.message} ${problem.remedy}`}
      testId={field}
    />
  );
}

/** One of the three ways to say the water: the one that was typed leads, the others follow. */
function WaterField({ way }: { way: WaterWay }) {
  const { draft, live } = useBench();
  const { water } = draft.formula;
  const leads = water.by === way.rule;
  const field = `water.${way.rule}`;
  const followed = live.figures?.water[way.rule] ?? null;
  const problem = leads ? problemAt(live.problems, 'water.value') : undefined;
  return (
    <NumberField
      showLabel
      leading={leads}
      label={way.label}
      value={leads ? water.value : followed}
      unit={way.unit}
      format={(value) => formatNumber(value, way.decimals)}
      parse={parseNumber}
      unread={draft.unread[field]}
      onUnread={(text) => draft.setUnread(field, text)}
      onChange={(value) => draft.edit((now) => ({ ...now, water: { by: way.rule, value } }), field)}
      onLeave={draft.closeStep}
      step={way.step}
      problem={problem && `${problem.message} ${problem.remedy}`}
      testId={way.rule}
    />
  );
}

function Weight({ value, decimals, testId }: { value?: number; decimals?: number; testId: string }) {
  const { weightUnit } = useSettings();
  return (
    <div className={classes.weight} data-testid={testId}>
      {value === undefined ? '–' : formatNumber(value, decimals ?? 1)}
      <span>{weightUnit.id}</span>
    </div>
  );
}

/** The same weight in the other system, for the second scale on the table. */
function AlsoIn({ grams, decimals }: { grams?: number; decimals: number }) {
  const { weightUnit, weightUnits } = useSettings();
  const isMetric = weightUnit.id === 'g' || weightUnit.id === 'kg';
  const other = weightUnits.find((unit) => unit.id === (isMetric ? 'oz' : 'g'));
  if (grams === undefined || other === undefined) return <div className={classes.also}>&nbsp;</div>;
  return (
    <div className={classes.also}>
      {formatNumber(grams / other.grams, isMetric ? 2 : decimals)} {other.id}
    </div>
  );
}
