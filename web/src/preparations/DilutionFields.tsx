import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import type { DilutionPlan, Preparation, Text } from '../api/types';
import { useReference } from '../api/queries';
import { useTellFailure } from '../app/showFailure';
import buttons from '../design/buttons.module.css';
import { Panel } from '../design/Panel';
import { PickOne } from '../design/PickOne';
import { optionsOf } from '../design/optionsOf';
import { formatNumber } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { Sentence } from '../design/Sentence';
import { useWeights } from '../design/units';
import { Amount, NameField, numberTyped, WeightAmount } from './fields';
import classes from './Preparations.module.css';
import { usePreparation } from './usePreparation';

const of = (change: (plan: DilutionPlan) => DilutionPlan) => (plan: Preparation) => change(plan as DilutionPlan);

/** Pastes, how much soap, bottles, what preserves it and what scents it. */
export function DilutionFields({ plan }: { plan: DilutionPlan }) {
  const { draft } = usePreparation();
  const { choices } = useReference();
  return (
    <>
      <Panel title="Bottles">
        <div className={classes.fields}>
          <NameField label="Called" />
          <SelectField showLabel label="Used" value={plan.style} options={optionsOf<DilutionPlan['style']>(choices.liquid_style)} onChange={(style) => draft.edit(of((now) => ({ ...now, style })))} />
          <Amount<DilutionPlan> label="Soap in it" field="soap_percent" value={plan.soap_percent} unit="%" step={1} change={(now, soap_percent) => ({ ...now, soap_percent })} placeholder="15–35" />
        </div>
        <div className={classes.fields}>
          <SelectField showLabel label="Sized by" value={plan.size_by} options={optionsOf<DilutionPlan['size_by']>(choices.sized_by)} onChange={(size_by) => draft.edit(of((now) => ({ ...now, size_by })))} testId="size-by" />
          {plan.size_by === 'bottles' ? (
            <Amount<DilutionPlan> label="Bottles" field="bottles" value={plan.bottles} step={1} change={(now, bottles) => ({ ...now, bottles })} />
          ) : (
            <WeightAmount<DilutionPlan> label="Paste" field="paste_g" value={plan.paste_g} change={(now, paste_g) => ({ ...now, paste_g })} />
          )}
          <Amount<DilutionPlan> label="A bottle takes" field="bottle_ml" value={plan.bottle_ml} unit="mL" step={10} change={(now, bottle_ml) => ({ ...now, bottle_ml })} />
          <SelectField showLabel label="Washing water" value={plan.wash_water} options={optionsOf<DilutionPlan['wash_water']>(choices.wash_water)} onChange={(wash_water) => draft.edit(of((now) => ({ ...now, wash_water })))} />
        </div>
      </Panel>
      <Pastes plan={plan} />
      <Preserving plan={plan} />
      <Scents plan={plan} />
    </>
  );
}

function Pastes({ plan }: { plan: DilutionPlan }) {
  const { draft, report } = usePreparation();
  const weights = useWeights();
  const { purposes } = useReference();
  const tellFailure = useTellFailure();
  const pastes = report?.pastes ?? [];
  const [words, setWords] = useState<Text>([]);
  const mix = async (purpose: string) => {
    try {
      const answer = await draft.follow(
        (now) => answered(api.POST('/api/preparations/mix', { body: { preparation_id: draft.record.id, plan: now.kind === 'dilution' ? now : plan, purpose } })),
        (whole, { shares }) => of((now) => ({
          ...now,
          pastes: shares.map((one) => ({ batch_id: one.batch_id, share_percent: one.share_percent, soap_percent: now.pastes?.find((line) => line.batch_id === one.batch_id)?.soap_percent ?? null })),
        }))(whole),
      );
      setWords(answer.words);
    } catch (error) {
      tellFailure(error);
    }
  };
  return (
    <Panel title="Pastes" aside="shares of the soap">
      {plan.pastes?.map((line, i) => {
        const paste = pastes.find((one) => one.batch_id === line.batch_id);
        return (
          <div key={line.batch_id} className={classes.line}>
            <span>
              <b>{paste?.name ?? 'A paste that is not there any more'}</b> <span className="muted">{paste && `${paste.code}, ${weights.tell(paste.left_g)} left`}</span>
            </span>
            <Amount<DilutionPlan> label="Share" field={`pastes[${i}].share_percent`} value={line.share_percent} unit="%" step={5}
              change={(now, share_percent) => ({ ...now, pastes: now.pastes?.map((one, at) => (at === i ? { ...one, share_percent } : one)) })} />
            <Amount<DilutionPlan> label="Soap in it" field={`pastes[${i}].soap_percent`} value={line.soap_percent} unit="%" step={1}
              placeholder={paste ? formatNumber(paste.soap_percent, 1) : undefined}
              change={(now, soap_percent) => ({ ...now, pastes: now.pastes?.map((one, at) => (at === i ? { ...one, soap_percent } : one)) })} />
            <button type="button" className={buttons.drop} aria-label={`Leave out ${paste?.name ?? 'this paste'}`} onClick={() => draft.edit(of((now) => ({ ...now, pastes: now.pastes?.filter((_, at) => at !== i) })))}>
              ×
            </button>
          </div>
        );
      })}
      <PickOne
        label="Add a paste"
        testId="add-paste"
        choices={pastes
          .filter((one) => !plan.pastes?.some((line) => line.batch_id === one.batch_id))
          .map((one) => ({ id: one.batch_id, name: `${one.name}, ${one.code}`, synonyms: [one.code], tag: weights.tell(one.left_g), about: `${formatNumber(one.soap_percent, 0)} % soap` }))}
        onPick={(id, amount) =>
          draft.edit(of((now) => ({ ...now, pastes: [...(now.pastes ?? []), { batch_id: id, share_percent: numberTyped(amount) ?? report?.next_share_percent ?? null, soap_percent: null }] })))
        }
      />
      {report && report.mixes_for.length > 0 && (
        <div className={classes.fields}>
          {purposes.filter((one) => report.mixes_for.includes(one.id)).map((one) => (
            <Button key={one.id} onClick={() => void mix(one.id)} data-testid={`mix-${one.id}`}>
              Mix for {one.name.toLowerCase()}
            </Button>
          ))}
          <p role="status" className="muted">
            <Sentence>{words}</Sentence>
          </p>
        </div>
      )}
    </Panel>
  );
}

function Preserving({ plan }: { plan: DilutionPlan }) {
  const { draft } = usePreparation();
  const { data: known = [] } = useQuery({ queryKey: ['preservatives'], queryFn: () => answered(api.GET('/api/preservatives')), staleTime: Number.POSITIVE_INFINITY });
  const { starting_preservatives: starting } = useReference();
  const line = plan.preservative;
  const row = known.find((one) => one.id === line?.preservative);
  const options = [{ value: '', label: 'none' }, ...known.map((one) => ({ value: one.id, label: one.name }))];
  const set = (patch: Partial<NonNullable<DilutionPlan['preservative']>>) => (now: DilutionPlan): DilutionPlan => (now.preservative ? { ...now, preservative: { ...now.preservative, ...patch } } : now);
  return (
    <Panel title="Preservative" aside="by its supplier's papers">
      <div className={classes.fields}>
        <SelectField
          showLabel
          label="Preservative"
          value={line?.preservative ?? ''}
          options={options}
          testId="preservative"
          onChange={(id) => draft.edit(of((now) => ({ ...now, preservative: starting[id] ?? null })))}
        />
        {line && row && (
          <>
            <Amount<DilutionPlan> label="Rate" field="preservative.rate_percent" value={line.rate_percent} unit="%" step={0.1} change={(now, rate_percent) => set({ rate_percent })(now)} />
            <Amount<DilutionPlan> label="Works from pH" field="preservative.ph_low" value={line.ph_low} step={0.5} placeholder={formatNumber(row.ph_low, 1, 0)} change={(now, ph_low) => set({ ph_low })(now)} />
            <Amount<DilutionPlan> label="up to pH" field="preservative.ph_high" value={line.ph_high} step={0.5} placeholder={formatNumber(row.ph_high, 1, 0)} change={(now, ph_high) => set({ ph_high })(now)} />
          </>
        )}
      </div>
    </Panel>
  );
}

function Scents({ plan }: { plan: DilutionPlan }) {
  const { draft } = usePreparation();
  const { scents, starting_liquid_scents } = useReference();
  return (
    <Panel title="Scent and thickness">
      {plan.scents?.map((line, i) => (
        <div key={line.scent} className={classes.line}>
          <b>{scents.find((one) => one.id === line.scent)?.name ?? line.scent}</b>
          <Amount<DilutionPlan> label="Of the soap" field={`scents[${i}].percent`} value={line.percent} unit="%" step={0.1}
            change={(now, percent) => ({ ...now, scents: now.scents?.map((one, at) => (at === i ? { ...one, percent } : one)) })} />
          <Amount<DilutionPlan> label="Supplier's limit" field={`scents[${i}].limit_percent`} value={line.limit_percent} unit="%" step={0.1}
            change={(now, limit_percent) => ({ ...now, scents: now.scents?.map((one, at) => (at === i ? { ...one, limit_percent } : one)) })} />
          <button type="button" className={buttons.drop} aria-label="Leave this scent out" onClick={() => draft.edit(of((now) => ({ ...now, scents: now.scents?.filter((_, at) => at !== i) })))}>
            ×
          </button>
        </div>
      ))}
      <div className={classes.fields}>
        <PickOne
          label="Add a scent"
          testId="add-liquid-scent"
          choices={scents.filter((one) => !plan.scents?.some((line) => line.scent === one.id)).map((one) => ({ id: one.id, name: one.name, synonyms: [], tag: '', about: one.behaviour.join(', ') }))}
          onPick={(id, amount) => {
            const line = starting_liquid_scents[id];
            if (line === undefined) return;
            draft.edit(of((now) => ({ ...now, scents: [...(now.scents ?? []), { ...line, percent: numberTyped(amount) ?? line.percent }] })));
          }}
        />
        <Amount<DilutionPlan> label="Brine of 20 %" field="brine_percent" value={plan.brine_percent} unit="%" step={0.5} placeholder="none" change={(now, brine_percent) => ({ ...now, brine_percent })} />
      </div>
    </Panel>
  );
}
