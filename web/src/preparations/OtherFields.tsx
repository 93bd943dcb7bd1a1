import { useOils, useReference } from '../api/queries';
import type { MasterBlendPlan, MasterLyePlan, Preparation, RebatchPlan } from '../api/types';
import batch from '../batch/Batch.module.css';
import buttons from '../design/buttons.module.css';
import { Panel } from '../design/Panel';
import { PickOne } from '../design/PickOne';
import { optionsOf } from '../design/optionsOf';
import { formatNumber } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { useTemperature } from '../design/temperature';
import { Amount, NameField, numberTyped, WeightAmount } from './fields';
import classes from './Preparations.module.css';
import { usePreparation } from './usePreparation';

const LYES = [
  { value: 'naoh', label: 'NaOH' },
  { value: 'koh', label: 'KOH' },
] as const;

/** Soap to melt again. */
export function RebatchFields({ plan }: { plan: RebatchPlan }) {
  const { draft } = usePreparation();
  const { choices } = useReference();
  const set = (patch: Partial<RebatchPlan>) => draft.edit((now: Preparation) => ({ ...now, ...patch }) as Preparation);
  return (
    <Panel title="Soap to melt">
      <div className={classes.fields}>
        <NameField label="Called" />
        <WeightAmount<RebatchPlan> label="Soap" field="soap_g" value={plan.soap_g} change={(now, soap_g) => ({ ...now, soap_g })} />
        <Amount<RebatchPlan> label="Poured" field="age_days" value={plan.age_days} unit="days ago" change={(now, age_days) => ({ ...now, age_days })} />
        <SelectField showLabel label="Liquid" value={plan.liquid} options={optionsOf<RebatchPlan['liquid']>(choices.rebatch_liquid)} onChange={(liquid) => set({ liquid })} />
        <Amount<RebatchPlan> label="Liquid" field="liquid_percent" value={plan.liquid_percent} unit="%" placeholder="by its age" change={(now, liquid_percent) => ({ ...now, liquid_percent })} />
      </div>
      <label className={batch.check}>
        <input type="checkbox" checked={plan.is_lye_heavy} onChange={(event) => set({ is_lye_heavy: event.currentTarget.checked })} data-testid="it-zaps" />
        It zaps: oil goes in, and it is cooked until it does not
      </label>
    </Panel>
  );
}

/** Lye to dissolve ahead. */
export function LyeFields({ plan }: { plan: MasterLyePlan }) {
  const { draft } = usePreparation();
  const temperature = useTemperature();
  return (
    <Panel title="Lye to dissolve">
      <div className={classes.fields}>
        <NameField label="Called" />
        <SelectField showLabel label="Lye" value={plan.lye} options={LYES} onChange={(lye) => draft.edit((now) => ({ ...now, lye }) as Preparation)} />
        <WeightAmount<MasterLyePlan> label="Lye as bought" field="lye_g" value={plan.lye_g} change={(now, lye_g) => ({ ...now, lye_g })} />
        <Amount<MasterLyePlan> label="Its purity" field="purity_percent" value={plan.purity_percent} unit="%" placeholder="on its label" change={(now, purity_percent) => ({ ...now, purity_percent })} />
        <Amount<MasterLyePlan> label="Lye concentration" field="concentration_percent" value={plan.concentration_percent} unit="%" change={(now, concentration_percent) => ({ ...now, concentration_percent })} />
        <Amount<MasterLyePlan>
          label="Room"
          field="room_c"
          value={plan.room_c}
          unit={temperature.unit}
          format={(celsius) => formatNumber(temperature.fromCelsius(celsius), 1, 0)}
          parse={temperature.parse}
          change={(now, room_c) => ({ ...now, room_c })}
        />
      </div>
    </Panel>
  );
}

/** Oils to melt together. */
export function BlendFields({ plan }: { plan: MasterBlendPlan }) {
  const { draft } = usePreparation();
  const oils = useOils();
  const sum = (plan.parts ?? []).reduce((all, part) => all + (part.share_percent ?? 0), 0);
  const edit = (change: (now: MasterBlendPlan) => MasterBlendPlan) => draft.edit((now) => change(now as MasterBlendPlan));
  return (
    <Panel title="Oils to blend" aside={`${formatNumber(sum, 1, 0)} %`}>
      <div className={classes.fields}>
        <NameField label="Called" />
        <WeightAmount<MasterBlendPlan> label="All together" field="total_g" value={plan.total_g} step={100} change={(now, total_g) => ({ ...now, total_g })} />
      </div>
      {plan.parts?.map((part, i) => (
        <div key={part.oil} className={classes.line}>
          <b>{oils.find((one) => one.id === part.oil)?.name ?? part.oil}</b>
          <Amount<MasterBlendPlan> label="Share" field={`parts[${i}].share_percent`} value={part.share_percent} unit="%" step={1}
            change={(now, share_percent) => ({ ...now, parts: now.parts?.map((one, at) => (at === i ? { ...one, share_percent } : one)) })} />
          <span />
          <button type="button" className={buttons.drop} aria-label="Leave this oil out" onClick={() => edit((now) => ({ ...now, parts: now.parts?.filter((_, at) => at !== i) }))}>
            ×
          </button>
        </div>
      ))}
      <PickOne
        label="Add an oil"
        testId="add-blend-oil"
        choices={oils
          .filter((one) => !plan.parts?.some((part) => part.oil === one.id))
          .map((one) => ({ id: one.id, name: one.name, synonyms: one.synonyms, tag: one.hard ? 'hard' : 'soft', about: '' }))}
        onPick={(id, amount) => edit((now) => ({ ...now, parts: [...(now.parts ?? []), { oil: id, share_percent: numberTyped(amount) }] }))}
      />
    </Panel>
  );
}
