import type { Choices, Process } from '../api/types';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { useTemperature } from '../design/temperature';
import { useWeights } from '../design/units';
import classes from './Batch.module.css';
import { PlanNumber, useBatch } from './BatchContext';

type Option<T extends string> = { value: T; label: string; about: string };

const SCHOOLS: Option<Choices['school']>[] = [
  { value: 'within_10_f', label: '±10 °F', about: 'Oils and lye within 10 °F (5.6 °C) of one another. The usual choice.' },
  { value: 'within_5_f', label: '±5 °F', about: 'Oils and lye within 5 °F (2.8 °C): for fine work.' },
  { value: 'within_10_c', label: '±10 °C', about: 'Oils and lye within 10 °C of one another: quicker to reach.' },
  { value: 'room_temperature', label: 'room', about: 'Both left to stand until they are cool: slow, and not for hard fats.' },
];
const MILK: Option<Choices['milk']>[] = [
  { value: 'frozen', label: 'frozen', about: 'The lye goes slowly over frozen cubes: cream to yellow, hardly any scorching.' },
  { value: 'chilled', label: 'chilled', about: 'Ice cold from the fridge: it may scorch.' },
];
const LYE: Option<Choices['lye']>[] = [
  { value: 'as_formula', label: 'as designed', about: '' },
  { value: 'dry', label: 'weighed dry', about: 'Lye weighed dry, dissolved today.' },
  { value: 'master', label: 'master', about: 'From lye dissolved ahead, 50 % unless the formula says otherwise; the rest of the water beside it.' },
];
const SCENT_AT: Option<Choices['scent_at']>[] = [
  { value: 'trace', label: 'at trace', about: 'Stirred in by hand at trace. The usual choice.' },
  { value: 'oils', label: 'in the oils', about: 'In the oils before the lye: well-behaved scents, and no hurry later.' },
];
const EXTRAS_AT: Option<Choices['extras_at']>[] = [
  { value: 'trace', label: 'by stage', about: 'Milk powder, honey and the like at trace, where the lye is spent.' },
  { value: 'lye', label: 'in the lye', about: 'Proteins and sugars into the hot lye: they dissolve, and brown.' },
];
const WEIGH: Option<Choices['weigh_into']>[] = [
  { value: 'one_bowl', label: 'one pot', about: 'One oil after the other into the pot: quick, but cannot be undone.' },
  { value: 'separate', label: 'bowls', about: 'Each oil into a bowl of its own first.' },
];
const TOPS: Option<Choices['top']>[] = [
  { value: 'level', label: 'level', about: 'Smoothed.' },
  { value: 'textured', label: 'textured', about: 'Spooned into peaks: leave about 12 mm of headroom.' },
];
const COVERS: Option<Choices['cover']>[] = [
  { value: 'cover', label: 'covered', about: 'A lid or film: less ash, a natural gel.' },
  { value: 'insulate', label: 'insulated', about: 'In a blanket: gel encouraged. Not for milk or sugar.' },
  { value: 'heat_pad', label: 'heat pad', about: 'Low, for an hour or two, looked after: a sure gel.' },
  { value: 'fridge', label: 'fridge', about: 'No gel: for milk, white bars and bright colours.' },
];
const METHODS: Option<NonNullable<Process['method']>>[] = [
  { value: 'cold', label: 'cold', about: 'Poured at trace, saponifies in the mould.' },
  { value: 'hot', label: 'hot', about: 'Cooked until it no longer zaps, spooned into the mould.' },
];
const GELS: Option<NonNullable<Process['gel']>>[] = [
  { value: 'natural', label: 'natural', about: 'Neither helped nor hindered.' },
  { value: 'encouraged', label: 'encouraged', about: 'Warm: firmer sooner, deeper colours.' },
  { value: 'prevented', label: 'prevented', about: 'Cool: paler, softer at first.' },
];

/** How it is made, where schools differ; each choice says what it means. */
export function ChoicesPanel() {
  const { draft, work } = useBatch();
  const { choices, formula } = draft.plan;
  const temperature = useTemperature();
  const weights = useWeights();
  const set = (patch: Partial<Choices>) => draft.edit((now) => ({ ...now, choices: { ...now.choices, ...patch } }));
  const setProcess = (patch: Partial<Process>) =>
    draft.edit((now) => ({ ...now, formula: { ...now.formula, process: { ...now.formula.process, ...patch } } }));
  const isMilk = work?.planned.window.meets_milk === true;
  const window = work?.planned.window;
  const choice = <T extends string>(label: string, value: T, options: Option<T>[], onChange: (value: T) => void) => (
    <SelectField showLabel label={label} value={value} options={options} onChange={onChange} testId={`choice-${label.toLowerCase()}`} />
  );
  const meaning = (options: Option<string>[], value: string) => options.find((option) => option.value === value)?.about ?? '';
  return (
    <Panel
      title="How it is made"
      yieldsTo={150}
      aside={
        window &&
        `combine at ${temperature.format(window.low_c)}–${temperature.format(window.high_c)} ${temperature.unit}, lye peaks near ${temperature.format(work.planned.lye_peak.high_c)}`
      }
    >
      <div className={classes.scroll}>
        <div className={classes.three}>
          {choice('Process', formula.process.method, METHODS, (method) => setProcess({ method }))}
          {choice('Gel', formula.process.gel, GELS, (gel) => setProcess({ gel }))}
          {choice('Cover', choices.cover, COVERS, (cover) => set({ cover }))}
          {choice('Apart', choices.school, SCHOOLS, (school) => set({ school }))}
          {isMilk && choice('Milk', choices.milk, MILK, (milk) => set({ milk }))}
          {choice('Scent', choices.scent_at, SCENT_AT, (scent_at) => set({ scent_at }))}
          {choice('Extras', choices.extras_at, EXTRAS_AT, (extras_at) => set({ extras_at }))}
          {choice('Weigh', choices.weigh_into, WEIGH, (weigh_into) => set({ weigh_into }))}
          {choice('Top', choices.top, TOPS, (top) => set({ top }))}
          {choice('Lye', choices.lye, LYE, (lye) => set({ lye }))}
          <PlanNumber
            label="Lye lye concentration"
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
          An ice bath is at hand
        </label>
        <label className={classes.check}>
          <input type="checkbox" checked={choices.alcohol_spray} onChange={(event) => set({ alcohol_spray: event.currentTarget.checked })} />
          The top is sprayed with alcohol, against ash
        </label>
        <p className={classes.about}>
          {meaning(LYE, choices.lye)} {meaning(SCHOOLS, choices.school)} {meaning(COVERS, choices.cover)} {isMilk && meaning(MILK, choices.milk)}{' '}
          {meaning(WEIGH, choices.weigh_into)}
        </p>
      </div>
    </Panel>
  );
}
