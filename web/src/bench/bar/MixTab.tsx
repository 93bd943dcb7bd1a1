import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../../api/client';
import { at, useReference } from '../../api/queries';
import type { FormulaRecord } from '../../api/types';
import { NumberField } from '../../design/NumberField';
import { formatChange, formatNumber, parseNumber, parseWeight } from '../../design/quantity';
import { FormulaPicker } from '../../formulas/FormulaPicker';
import { useSettings } from '../../app/settings';
import { useWeights } from '../../design/units';
import { useBench } from '../BenchContext';
import classes from './Bar.module.css';

const FIRST_WEIGHT_G = 500;

interface Other {
  record: FormulaRecord;
  weight_g: number | null;
}

/** This paste mixed with others, by weight: soap, qualities and yield. A calculation only; nothing is changed. */
export function MixTab() {
  const weights = useWeights();
  const { draft, live } = useBench();
  const { qualities } = useReference();
  const [own, setOwn] = useState<number | null>(FIRST_WEIGHT_G);
  const [others, setOthers] = useState<Other[]>([]);
  const [thinTo, setThinTo] = useState<number | null>(null);
  const components = [{ formula: draft.formula, weight_g: own }, ...others.map(({ record, weight_g }) => ({ formula: record.formula, weight_g }))];
  const pasted = components.flatMap(({ formula, weight_g }) => (weight_g !== null && weight_g > 0 ? [{ formula, weight_g }] : []));
  const { data: mix, error } = useQuery({
    queryKey: ['paste-mix', pasted, thinTo],
    queryFn: () => answered(api.POST('/api/compute/paste-mix', { body: { pastes: pasted, soap_percent: thinTo } })),
    enabled: live.freshness === 'fresh' && pasted.length > 0,
    placeholderData: (previous) => previous,
  });
  const add = async (id: string) => {
    const record = await answered(api.GET('/api/formulas/{formula_id}', at(id)));
    setOthers((now) => [...now, { record, weight_g: FIRST_WEIGHT_G }]);
  };
  const today = (quality: string) => live.result?.qualities.find((quantity) => quantity.quality === quality)?.points ?? 0;

  return (
    <div className={classes.mix}>
      <MixWeight name={draft.formula.name} value={own} onChange={setOwn} />
      {others.map((other, index) => (
        <MixWeight
          key={other.record.id}
          name={other.record.formula.name}
          value={other.weight_g}
          onChange={(weight_g) => setOthers((now) => now.map((one, i) => (i === index ? { ...one, weight_g } : one)))}
        />
      ))}
      <FormulaPicker
        testId="mix-with"
        pastes
        without={[draft.record.id, ...others.map((other) => other.record.id)]}
        onPick={(id) => void add(id)}
      >
        Mix with another paste …
      </FormulaPicker>
      <MixNumber label="Thin to, % soap" value={thinTo} onChange={setThinTo} />
      {error !== null && <p className={classes.calmText}>{error.message}</p>}
      {mix && (
        <p className={classes.mixed} data-testid="paste-mix">
          <b>{formatNumber(mix.mix.soap_percent, 1)} %</b> soap in <b>{weights.tell(mix.mix.weight_g)}</b>
          {mix.water_to_add_g != null && (
            <>
              ; with <b>{weights.tell(mix.water_to_add_g)}</b> of water it makes <b>{weights.tell(mix.yield_g)}</b>
            </>
          )}
          {mix.thinner_already && <>; that is less than {formatNumber(thinTo ?? 0, 1, 0)} % already, so no water is added</>}
          .{' '}
          {mix.qualities.map(({ quality: id, points }) => (
            <span key={id}>
              {qualities.find((quality) => quality.id === id)?.name.toLowerCase()} <b>{formatNumber(points, 1)}</b>
              {formatChange(points - today(id), 1) && <small> {formatChange(points - today(id), 1)}</small>}{' '}
            </span>
          ))}
        </p>
      )}
    </div>
  );
}

interface MixFieldProps {
  value: number | null;
  onChange: (value: number | null) => void;
}

function MixWeight({ name, value, onChange }: MixFieldProps & { name: string }) {
  const { weightUnit, weightUnits } = useSettings();
  const [unread, setUnread] = useState<string | null>(null);
  return (
    <>
      <span>{name}</span>
      <NumberField
        label={`${name}, weight in ${weightUnit.name}`}
        value={value}
        unit={weightUnit.id}
        step={weightUnit.grams * (weightUnit.id === 'g' ? 50 : 1)}
        format={(grams) => formatNumber(grams / weightUnit.grams, weightUnit.decimals)}
        parse={(text) => parseWeight(text, weightUnit.id, weightUnits)}
        unread={unread ?? undefined}
        onUnread={setUnread}
        onChange={onChange}
      />
    </>
  );
}

function MixNumber({ label, value, onChange }: MixFieldProps & { label: string }) {
  const [unread, setUnread] = useState<string | null>(null);
  return (
    <>
      <span>{label}</span>
      <NumberField
        label={label}
        value={value}
        unit="%"
        step={1}
        format={(shown) => formatNumber(shown, 1, 0)}
        parse={parseNumber}
        unread={unread ?? undefined}
        onUnread={setUnread}
        onChange={onChange}
        testId="mix-thin-to"
      />
    </>
  );
}
