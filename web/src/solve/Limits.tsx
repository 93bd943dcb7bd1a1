import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import { useOilNotes, useOils, useReference } from '../api/queries';
import type { Formula } from '../api/types';
import { shortDate } from '../design/dates';
import { NumberField, type NumberFieldProps } from '../design/NumberField';
import { Panel } from '../design/Panel';
import { PickOne } from '../design/PickOne';
import { formatNumber, parseNumber } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { useWeights } from '../design/units';
import type { Asked, Pool } from './question';
import classes from './Solve.module.css';

interface LimitsProps {
  asked: Asked;
  formula: Formula;
  onChange: (change: Partial<Asked>) => void;
}

const POOLS: { value: Pool; label: string }[] = [
  { value: 'usual', label: 'usual oils' },
  { value: 'wide', label: 'one dear or rare oil too' },
  { value: 'shelf', label: 'what is on hand' },
  { value: 'own', label: 'this formula’s' },
];
const PREFERENCES: { value: Asked['prefer']; label: string }[] = [
  { value: 'none', label: 'nothing' },
  { value: 'closer', label: 'this formula' },
  { value: 'fewer', label: 'fewer oils' },
  { value: 'cheaper', label: 'a low price' },
  { value: 'longer_shelf', label: 'long shelf life' },
];
const COUNTS = [2, 3, 4, 5, 6, 7, 8].map((count) => ({ value: String(count), label: String(count) }));
const STEPS = ['0.5', '1', '2', '5'].map((step) => ({ value: step, label: `${step} %` }));
const LEASTS = ['1', '2', '3', '5', '10'].map((least) => ({ value: least, label: `${least} %` }));
const NO_LIMIT = '100';
const MOSTS = ['0', '10', '20', '30', '50', NO_LIMIT].map((most) => ({
  value: most,
  label: most === NO_LIMIT ? 'any' : `${most} %`,
}));

/** What the blend may be made of. */
export function Limits({ asked, formula, onChange }: LimitsProps) {
  const { free_of: words, free_of_together: together } = useReference();
  const oils = useOils();
  const weights = useWeights();
  const { data: notes = {} } = useOilNotes();
  const left = Object.entries(notes).flatMap(([oil, note]) => ((note.on_hand_g ?? 0) > 0 ? [[oil, note.on_hand_g ?? 0] as const] : []));
  const isShelf = asked.pool != null && Object.keys(asked.available_g ?? {}).length > 0 && asked.pool.every((oil) => oil in (asked.available_g ?? {}));
  const pool: Pool = asked.pool !== null ? (isShelf ? 'shelf' : 'own') : asked.with_specialties ? 'wide' : 'usual';
  const without = new Set<string>([...formula.free_of, ...asked.free_of]);
  const most = (group: 'butters' | 'animal') =>
    String(asked.groups.find((limit) => limit.group === group)?.maximum_percent ?? 100);
  const setMost = (group: 'butters' | 'animal', value: string) =>
    onChange({
      groups: [
        ...asked.groups.filter((limit) => limit.group !== group),
        ...(value === NO_LIMIT ? [] : [{ group, minimum_percent: 0, maximum_percent: Number(value) }]),
      ],
    });
  const setLimit = (index: number, patch: Partial<Asked['limits'][number]>) =>
    onChange({ limits: asked.limits.map((limit, i) => (i === index ? { ...limit, ...patch } : limit)) });

  return (
    <Panel title="What it may be made of">
      <div className={classes.limits}>
        <div className={classes.fields}>
          <SelectField
            showLabel
            label="From"
            value={pool}
            options={POOLS.filter(({ value }) => value !== 'shelf' || left.length > 0)}
            onChange={(next) =>
              onChange({
                pool: next === 'own' ? formula.blend.lines.map((line) => line.oil) : next === 'shelf' ? left.map(([oil]) => oil) : null,
                available_g: next === 'shelf' ? Object.fromEntries(left) : {},
                with_specialties: next === 'wide',
              })
            }
            testId="solve-pool"
          />
          <SelectField
            showLabel
            label="Oils at most"
            value={String(asked.most_oils)}
            options={COUNTS}
            onChange={(count) => onChange({ most_oils: Number(count) })}
            testId="most-oils"
          />
          <SelectField
            showLabel
            label="Steps of"
            value={String(asked.step_percent)}
            options={STEPS}
            onChange={(step) => onChange({ step_percent: Number(step) })}
          />
          <SelectField showLabel label="Butters at most" value={most('butters')} options={MOSTS} onChange={(value) => setMost('butters', value)} />
          <SelectField showLabel label="Animal at most" value={most('animal')} options={MOSTS} onChange={(value) => setMost('animal', value)} />
          <SelectField
            showLabel
            label="At least, each"
            value={String(asked.least_share_percent)}
            options={LEASTS}
            onChange={(least) => onChange({ least_share_percent: Number(least) })}
          />
          <SelectField
            showLabel
            label="Then prefer"
            value={asked.prefer}
            options={PREFERENCES}
            onChange={(prefer) => onChange({ prefer })}
          />
        </div>
        <label className={classes.holds}>
          <input
            type="checkbox"
            checked={asked.holds_whatever_arrives}
            onChange={(event) => onChange({ holds_whatever_arrives: event.currentTarget.checked })}
            data-testid="holds-whatever"
          />
          Safe against the lot: keep every target even if all lots are off to the same side
        </label>
        {asked.lifted.length > 0 && (
          <div className={classes.chips} role="group" aria-label="Lifted limits">
            {asked.lifted.map((name) => (
              <button key={name} type="button" className={classes.chip} aria-pressed onClick={() => onChange({ lifted: asked.lifted.filter((kept) => kept !== name) })}>
                lifted: {name.replace(':', ' of ').replaceAll('_', ' ')} ×
              </button>
            ))}
          </div>
        )}
        <div className={classes.chips} role="group" aria-label="Without">
          {Object.entries(together).map(([word, covers]) => {
            const isOn = covers.every((one) => without.has(one));
            return (
              <button
                key={word}
                type="button"
                className={classes.chip}
                aria-pressed={isOn}
                title={`covers ${covers.join(', ')}`}
                onClick={() =>
                  onChange({ free_of: isOn ? asked.free_of.filter((kept) => !covers.includes(kept)) : [...new Set([...asked.free_of, ...covers])] })
                }
                data-testid={`without-${word}`}
              >
                {word === 'vegan' ? 'vegan' : `no ${word}`}
              </button>
            );
          })}
          {words.map((word) => (
            <button
              key={word}
              type="button"
              className={classes.chip}
              aria-pressed={without.has(word)}
              disabled={formula.free_of.includes(word as Asked['free_of'][number])}
              onClick={() => {
                const one = word as Asked['free_of'][number];
                onChange({
                  free_of: asked.free_of.includes(one)
                    ? asked.free_of.filter((kept) => kept !== one)
                    : [...asked.free_of, one],
                });
              }}
            >
              no {word}
            </button>
          ))}
        </div>
        <ul className={classes.oilLimits} aria-label="Limits of single oils">
          {asked.limits.map((limit, index) => {
            const name = oils.find((oil) => oil.id === limit.oil)?.name ?? limit.oil;
            return (
              <li key={limit.oil}>
                <span>{name}</span>
                {(['minimum_percent', 'maximum_percent'] as const).map((edge) => (
                  <LimitNumber
                    key={edge}
                    label={`${name}, ${edge === 'minimum_percent' ? 'at least' : 'at most'}`}
                    value={limit[edge]}
                    unit="%"
                    step={1}
                    format={(value) => formatNumber(value, 1, 0)}
                    parse={parseNumber}
                    emptyIs={edge === 'minimum_percent' ? 0 : 100}
                    onChange={(value) => setLimit(index, { [edge]: value ?? limit[edge] })}
                    testId={`${limit.oil}-${edge}`}
                  />
                ))}
                <LimitNumber
                  label={`${name}, ${weights.unit} left`}
                  value={asked.available_g[limit.oil] ?? null}
                  unit={weights.unit}
                  step={10}
                  format={(grams) => weights.format(grams, 0)}
                  parse={weights.parse}
                  onChange={(grams) => {
                    const others = Object.entries(asked.available_g).filter(([oil]) => oil !== limit.oil);
                    onChange({ available_g: Object.fromEntries(grams === null ? others : [...others, [limit.oil, grams]]) });
                  }}
                  testId={`${limit.oil}-available`}
                />
                <button
                  type="button"
                  aria-label={`No limit for ${name}`}
                  onClick={() => onChange({ limits: asked.limits.filter((_, i) => i !== index) })}
                >
                  ×
                </button>
              </li>
            );
          })}
        </ul>
        <UseUp asked={asked} formula={formula} onChange={onChange} />
        <PickOne
          label={`Limit an oil: at least, at most, ${weights.unit} left`}
          choices={oils
            .filter((oil) => !asked.limits.some((limit) => limit.oil === oil.id))
            .map((oil) => ({ id: oil.id, name: oil.name, synonyms: oil.synonyms, tag: oil.allergens, about: oil.jobs }))}
          onPick={(oil) => onChange({ limits: [...asked.limits, { oil, minimum_percent: asked.least_share_percent, maximum_percent: 100 }] })}
          testId="limit-oil"
        />
      </div>
    </Panel>
  );
}

/** Oils on the shelf that near their date: one touch puts as much of each into the question as uses it up. */
function UseUp({ asked, formula, onChange }: LimitsProps) {
  const weights = useWeights();
  const { data } = useQuery({
    queryKey: ['use-up', formula.blend],
    queryFn: ({ signal }) => answered(api.POST('/api/solve-use-up', { body: formula, signal })),
  });
  const open = (data ?? []).filter((one) => !asked.limits.some((limit) => limit.oil === one.oil));
  if (open.length === 0) return null;
  return (
    <div className={classes.chips} role="group" aria-label="Use up" data-testid="use-up">
      {open.map((one) => (
        <button
          key={one.code}
          type="button"
          className={classes.chip}
          title={one.is_all ? 'all of it' : 'the most that makers use of such an oil'}
          onClick={() => onChange({ limits: [...asked.limits, { oil: one.oil, minimum_percent: one.share_percent, maximum_percent: 100 }] })}
        >
          use up {one.name} {one.code}: {weights.tell(one.grams)}, until {shortDate(one.until)}
        </button>
      ))}
    </div>
  );
}

/** A number that keeps what it cannot read, and says so. */
function LimitNumber(props: Omit<NumberFieldProps, 'unread' | 'onUnread'>) {
  const [unread, setUnread] = useState<string | null>(null);
  return <NumberField {...props} unread={unread ?? undefined} onUnread={setUnread} />;
}
