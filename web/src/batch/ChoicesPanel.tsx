import { useReference } from '../api/queries';
import type { Choice, Choices, Process } from '../api/types';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { useTemperature } from '../design/temperature';
import { useWeights } from '../design/units';
import classes from './Batch.module.css';
import { PlanNumber, useBatch } from './BatchContext';

/** How it is made, where schools differ; each choice says what it means. */
export function ChoicesPanel() {
  const { draft, work } = useBatch();
  const { choices, formula } = draft.plan;
  const known = useReference().choices;
  const temperature = useTemperature();
  const weights = useWeights();
  const set = (patch: Partial<Choices>) => draft.edit((now) => ({ ...now, choices: { ...now.choices, ...patch } }));
  const setProcess = (patch: Partial<Process>) =>
    draft.edit((now) => ({ ...now, formula: { ...now.formula, process: { ...now.formula.process, ...patch } } }));
  const isMilk = work?.planned.window.meets_milk === true;
  const window = work?.planned.window;
  const isPoured = work?.process?.is_poured !== false;
  const choice = <T extends string>(label: string, value: T, about: string, onChange: (value: T) => void) => (
    <SelectField showLabel label={label} value={value} options={(known[about] ?? []) as (Choice & { value: T })[]} onChange={onChange} testId={`choice-${label.toLowerCase()}`} />
  );
  const meaning = (about: string, value: string) => known[about]?.find((one) => one.value === value)?.meaning ?? '';
  return (
    <Panel
      title="How it is made"
      aside={
        window &&
        `combine at ${temperature.format(window.low_c)}–${temperature.format(window.high_c)} ${temperature.unit}, lye peaks near ${temperature.format(work.planned.lye_peak.high_c)}`
      }
    >
      <div className={classes.scroll}>
        <div className={classes.three}>
          {choice('Process', formula.process.method, 'method', (method) => setProcess({ method }))}
          {choice('Mixed with', choices.mixing, 'mixing', (mixing) => set({ mixing }))}
          {isPoured && choice('Gel', formula.process.gel, 'gel', (gel) => setProcess({ gel }))}
          {isPoured && choice('Cover', choices.cover, 'cover', (cover) => set({ cover }))}
          {isPoured && choice('Apart', choices.school, 'apart', (school) => set({ school }))}
          {isMilk && choice('Milk', choices.milk, 'milk', (milk) => set({ milk }))}
          {isPoured && choice('Scent', choices.scent_at, 'scent_at', (scent_at) => set({ scent_at }))}
          {isPoured && choice('Extras', choices.extras_at, 'extras_at', (extras_at) => set({ extras_at }))}
          {choice('Weigh', choices.weigh_into, 'weigh_into', (weigh_into) => set({ weigh_into }))}
          {isPoured && choice('Top', choices.top, 'top', (top) => set({ top }))}
          {choice('Lye', choices.lye, 'lye', (lye) => set({ lye }))}
          <PlanNumber
            label="Lye concentration"
            field="choices.lye_concentration_percent"
            value={choices.lye_concentration_percent}
            placeholder={work ? formatNumber(work.planned.result.water.lye_concentration_percent, 1, 0) : undefined}
            unit="%"
            step={0.5}
            format={(percent) => formatNumber(percent, 1, 0)}
            change={(now, value) => ({ ...now, choices: { ...now.choices, lye_concentration_percent: value } })}
          />
          <PlanNumber
            label="Room"
            field="choices.room_c"
            value={choices.room_c}
            unit={temperature.unit}
            step={1}
            format={(celsius) => formatNumber(temperature.fromCelsius(celsius), 1, 0)}
            parse={temperature.parse}
            change={(now, value) => ({ ...now, choices: { ...now.choices, room_c: value } })}
          />
          <PlanNumber
            label="Scale takes"
            field="choices.scale_capacity_g"
            value={choices.scale_capacity_g}
            placeholder="any weight"
            unit={weights.unit}
            step={500}
            format={(grams) => weights.format(grams, 0)}
            parse={weights.parse}
            change={(now, value) => ({ ...now, choices: { ...now.choices, scale_capacity_g: value } })}
          />
        </div>
        <label className={classes.check}>
          <input type="checkbox" checked={choices.ice_bath} onChange={(event) => set({ ice_bath: event.currentTarget.checked })} />
          The lye jug stands in an ice bath
        </label>
        {isPoured && (
          <label className={classes.check}>
            <input type="checkbox" checked={choices.alcohol_spray} onChange={(event) => set({ alcohol_spray: event.currentTarget.checked })} />
            The top is sprayed with alcohol, against ash
          </label>
        )}
        <Brought />
        <p className={classes.about}>
          {meaning('lye', choices.lye)} {isPoured && `${meaning('apart', choices.school)} ${meaning('cover', choices.cover)}`} {isMilk && meaning('milk', choices.milk)}{' '}
          {meaning('weigh_into', choices.weigh_into)}
        </p>
      </div>
    </Panel>
  );
}

/** What the customer brings: it is looked at first, and not taken from the shelf. */
function Brought() {
  const { draft, work } = useBatch();
  const { brought = [] } = draft.plan;
  if (!work) return null;
  const { result, scents } = work.planned;
  const all = [
    ...result.oils.map((one) => ({ id: one.oil, name: one.name })),
    ...(result.liquids ?? []).map((one) => ({ id: `liquid:${one.liquid}`, name: one.name })),
    ...result.additives.map((one) => ({ id: `additive:${one.additive}`, name: one.name })),
    ...scents.map((one) => ({ id: `scent:${one.scent}`, name: one.name })),
  ];
  const shown = all.filter((one, i) => all.findIndex((other) => other.id === one.id) === i);
  const names = shown.filter((one) => brought.includes(one.id)).map((one) => one.name);
  return (
    <details className={classes.brought} data-testid="brought">
      <summary>Brought by the customer: {names.length > 0 ? names.join(', ') : 'nothing'}</summary>
      {shown.map((one) => (
        <label key={one.id} className={classes.check}>
          <input
            type="checkbox"
            checked={brought.includes(one.id)}
            onChange={(event) => {
              const kept = brought.filter((id) => id !== one.id);
              draft.edit((now) => ({ ...now, brought: event.target.checked ? [...kept, one.id] : kept }));
            }}
          />
          {one.name}
        </label>
      ))}
    </details>
  );
}
