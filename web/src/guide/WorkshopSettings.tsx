import { Button, SegmentedControl, Switch } from '@mantine/core';
import { useState } from 'react';

import { ApiFailure } from '../api/client';
import { useReference } from '../api/queries';
import type { Workshop } from '../api/types';
import { useWorkshopChange, useWorkshopSoon, type ChangeOfWorkshop } from '../api/workshop';
import { useSettings } from '../app/settings';
import buttons from '../design/buttons.module.css';
import { NumberField } from '../design/NumberField';
import { formatNumber, parseNumber, type Parsed } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { Sentence } from '../design/Sentence';
import { TextBox } from '../design/TextBox';
import { saidOf, useWeights } from '../design/units';
import classes from './WorkshopSettings.module.css';

type Habits = Workshop['habits'];
type Tub = NonNullable<Workshop['tubs']>[number];

const isSame = (one: Tub, other: Tub) => one.name === other.name && one.lye === other.lye && one.purity_percent === other.purity_percent;

const LYES = [
  { value: 'naoh', label: 'NaOH' },
  { value: 'koh', label: 'KOH' },
] as const;
const WATER_RULES = [
  { value: 'lye_concentration_percent', label: 'Lye concentration', unit: '%' },
  { value: 'water_to_lye', label: 'Water : lye', unit: ':1' },
  { value: 'percent_of_oils', label: 'Water, % of oils', unit: '%' },
  { value: 'discount_percent', label: 'Water discount', unit: '%' },
] as const;

/** What the workshop has and how its makers like to work: three questions, each kept as soon as it is answered. */
export function WorkshopSettings() {
  const workshop = useWorkshopSoon();
  const change = useWorkshopChange();
  if (workshop === undefined) return null;
  // What is refused is told below.
  const keep = (wanted: ChangeOfWorkshop, onKept?: () => void) => void change.mutateAsync(wanted).then(onKept, () => undefined);
  const problems = change.error instanceof ApiFailure ? change.error.problems : [];
  return (
    <div className={classes.questions}>
      <Units workshop={workshop} onChange={keep} />
      <Tubs workshop={workshop} onChange={keep} />
      <HabitFields workshop={workshop} onChange={keep} />
      <Switch label="On make day, confirm each lot by its code before it is weighed" checked={workshop.confirms_lots} onChange={(event) => keep({ confirms_lots: event.currentTarget.checked })} data-testid="confirms-lots" />
      <p className={classes.state} role="status" data-testid="workshop-state">
        {change.isPending && 'Saving …'}
        {change.isSuccess && 'Saved'}
        {change.error !== null && problems.length === 0 && change.error.message}
      </p>
      {problems.map((problem) => (
        <p key={problem.path} className={classes.problem} role="alert">
          <Sentence>{saidOf(problem)}</Sentence>
        </p>
      ))}
    </div>
  );
}

interface PartProps {
  workshop: Workshop;
  /** Keeps a change; `onKept` is called once the server has it. */
  onChange: (change: ChangeOfWorkshop, onKept?: () => void) => void;
}

function Units({ workshop, onChange }: PartProps) {
  const { weightUnit, weightUnits, setWeightUnit, temperatureUnit, setTemperatureUnit } = useSettings();
  const weights = useWeights();
  return (
    <fieldset className={classes.question}>
      <legend>Units and scale</legend>
      <div className={classes.row}>
        <SegmentedControl
          value={weightUnit.id}
          onChange={(unit) => setWeightUnit(unit as typeof weightUnit.id)}
          data={weightUnits.map((unit) => ({ value: unit.id, label: unit.id }))}
          aria-label="Weights in"
        />
        <SegmentedControl
          value={temperatureUnit}
          onChange={(unit) => setTemperatureUnit(unit as typeof temperatureUnit)}
          data={['°C', '°F']}
          aria-label="Temperatures in"
        />
        <Amount
          label="Scale takes at most"
          value={workshop.scale_capacity_g ?? null}
          unit={weights.unit}
          format={(grams) => weights.format(grams)}
          parse={weights.parse}
          onKeep={(scale_capacity_g) => scale_capacity_g !== null && onChange({ scale_capacity_g })}
          testId="scale-capacity"
        />
        <SelectField showLabel label="Time zone" value={workshop.time_zone} options={zones(workshop.time_zone)} onChange={(time_zone) => onChange({ time_zone })} testId="time-zone" />
      </div>
    </fieldset>
  );
}

const HERE = new Intl.DateTimeFormat().resolvedOptions().timeZone;

/** The machine's own zone, this device's, and all others by name. */
function zones(chosen: string): { value: string; label: string }[] {
  const known = [...new Set([chosen, HERE, ...Intl.supportedValuesOf('timeZone')])].filter((zone) => zone !== '');
  return [{ value: '', label: 'the computer’s own' }, ...known.map((zone) => ({ value: zone, label: zone === HERE ? `${zone} (this device)` : zone }))];
}

function Tubs({ workshop, onChange }: PartProps) {
  const tubs = workshop.tubs ?? [];
  const [name, setName] = useState('');
  const [lye, setLye] = useState<'naoh' | 'koh'>('naoh');
  const [purity, setPurity] = useState<number | null>(null);
  const canKeep = name.trim() !== '' && purity !== null;
  const keep = () => {
    if (!canKeep) return;
    // What is refused stays in its fields.
    const tub: Tub = { name: name.trim(), lye, purity_percent: purity };
    const kept = (known: Workshop) => ({ tubs: [tub, ...(known.tubs ?? []).filter((one) => !isSame(one, tub))] });
    onChange(kept, () => {
      setName('');
      setPurity(null);
    });
  };
  return (
    <fieldset className={classes.question}>
      <legend>Your lye</legend>
      <p className="muted">The purity is on the label, often 98 to 99 % for NaOH and 85 to 90 % for KOH. It is offered in each formula, never filled in unasked.</p>
      <ul className={classes.tubs}>
        {tubs.map((tub, index) => (
          <li key={`${tub.name}-${index}`}>
            <strong>{tub.name}</strong> {tub.lye === 'naoh' ? 'NaOH' : 'KOH'} <span className="quantity">{formatNumber(tub.purity_percent, 1, 0)} %</span>
            <button
              type="button"
              className={buttons.drop}
              aria-label={`Leave out ${tub.name}`}
              onClick={() => onChange((known) => ({ tubs: (known.tubs ?? []).filter((one) => !isSame(one, tub)) }))}
            >
              ×
            </button>
          </li>
        ))}
      </ul>
      <form
        className={classes.row}
        onSubmit={(event) => {
          event.preventDefault();
          keep();
        }}
      >
        <TextBox label="Name of the tub" value={name} maxLength={60} placeholder="Blue tub" onChange={setName} testId="tub-name" />
        <SelectField showLabel label="Lye in it" value={lye} options={LYES} onChange={setLye} />
        <Amount label="Purity" value={purity} unit="%" format={(value) => formatNumber(value, 1, 0)} parse={parseNumber} onKeep={setPurity} testId="tub-purity" />
        <Button type="submit" disabled={!canKeep} data-testid="keep-tub">
          Keep this tub
        </Button>
      </form>
    </fieldset>
  );
}

function HabitFields({ workshop, onChange }: PartProps) {
  const { limits, usual_water: usualWater } = useReference();
  const { habits } = workshop;
  const change = (one: Partial<Habits>) => onChange((known) => ({ habits: { ...known.habits, ...one } }));
  const rule = WATER_RULES.find((one) => one.value === habits.water_by) ?? WATER_RULES[0];
  return (
    <fieldset className={classes.question}>
      <legend>How you like to work</legend>
      <div className={classes.row}>
        <SegmentedControl
          value={habits.method}
          onChange={(method) => change({ method: method as 'cold' | 'hot' })}
          data={[
            { value: 'cold', label: 'cold process' },
            { value: 'hot', label: 'hot process' },
          ]}
          aria-label="Process"
        />
        <Amount
          label="Superfat"
          value={habits.superfat_percent ?? null}
          unit={limits.superfat_percent?.unit ?? '%'}
          format={(value) => formatNumber(value, 1, 0)}
          parse={parseNumber}
          onKeep={(superfat_percent) => superfat_percent !== null && change({ superfat_percent })}
          testId="habit-superfat"
        />
        <SelectField
          showLabel
          label="Water by"
          value={rule.value}
          options={WATER_RULES}
          onChange={(water_by) => change({ water_by, water_value: usualWater[water_by] ?? habits.water_value })}
        />
        <Amount
          label={rule.label}
          value={habits.water_value ?? null}
          unit={rule.unit}
          format={(value) => formatNumber(value, 2, 0)}
          parse={parseNumber}
          onKeep={(water_value) => water_value !== null && change({ water_value })}
          testId="habit-water"
        />
      </div>
      <p className="muted">New formulas begin like this; each can be made in another way.</p>
    </fieldset>
  );
}

interface AmountProps {
  label: string;
  value: number | null;
  unit: string;
  format: (value: number) => string;
  parse: (text: string) => Parsed;
  onKeep: (value: number | null) => void;
  testId: string;
}

function Amount({ label, value, unit, format, parse, onKeep, testId }: AmountProps) {
  const [unread, setUnread] = useState<string | null>(null);
  /** What stands in the field while it is being typed in, kept or not. */
  const [typed, setTyped] = useState<{ value: number | null } | null>(null);
  return (
    <div className={classes.amount}>
      <NumberField
        showLabel
        label={label}
        value={typed === null ? value : typed.value}
        unit={unit}
        step={1}
        format={format}
        parse={parse}
        unread={unread ?? undefined}
        onUnread={setUnread}
        onChange={(next) => {
          setTyped({ value: next });
          onKeep(next);
        }}
        onLeave={() => setTyped(null)}
        testId={testId}
      />
    </div>
  );
}
