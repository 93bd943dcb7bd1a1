import { Button } from '@mantine/core';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api, ApiFailure } from '../api/client';
import { useReference } from '../api/queries';
import { useTellFailure } from '../app/showFailure';
import type { BatchPlan, ColourLine } from '../api/types';
import buttons from '../design/buttons.module.css';
import { NumberField } from '../design/NumberField';
import { PickOne } from '../design/PickOne';
import { formatNumber, parseNumber } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { TabbedPanel } from '../design/TabbedPanel';
import { Sentence } from '../design/Sentence';
import { saidOf, useWeights } from '../design/units';
import classes from './Batch.module.css';
import { PlanNumber, useBatch } from './BatchContext';
import { changePortion, changeScent, paint } from './plan';

/** Scent, colours by portion, and notes for this batch. */
export function AdditionsPanel() {
  const { draft, problems } = useBatch();
  const [tab, setTab] = useState('scent');
  const { plan } = draft;
  return (
    <TabbedPanel
      title="Additions"
      selected={tab}
      onSelect={setTab}
      tabs={[
        { id: 'scent', label: 'Scent', count: plan.scents.length, troubled: problems.some((p) => p.path.startsWith('scents')), content: <ScentTab /> },
        { id: 'colour', label: 'Colour', count: plan.portions.length, troubled: problems.some((p) => p.path.startsWith('portions')), content: <ColourTab /> },
        {
          id: 'notes',
          label: plan.notes ? 'Notes •' : 'Notes',
          content: (
            <textarea
              className={classes.notes}
              aria-label="Notes for this batch"
              placeholder="Notes for this batch"
              value={plan.notes}
              maxLength={5000}
              onChange={(event) => {
                const notes = event.currentTarget.value;
                draft.edit((now) => ({ ...now, notes }), 'notes');
              }}
              onBlur={draft.closeStep}
            />
          ),
        },
      ]}
    />
  );
}

function ScentTab() {
  const weights = useWeights();
  const { draft, work } = useBatch();
  const { scents, starting_scents } = useReference();
  const { plan } = draft;
  return (
    <div className={classes.scroll}>
      <ul className={classes.entries}>
        {plan.scents.map((line, i) => {
          const scent = scents.find((known) => known.id === line.scent);
          const weighed = work?.planned.scents[i];
          return (
            <li key={line.scent} className={classes.entry} data-testid={`scent-${line.scent}`}>
              <header>
                <span>{scent?.name ?? line.scent}</span>
                <span className={classes.grams}>{weighed && weights.tell(weighed.weight_g, 1)}</span>
                <button
                  type="button"
                  className={buttons.drop}
                  aria-label={`Leave out ${scent?.name ?? line.scent}`}
                  onClick={() => draft.edit((now) => ({ ...now, scents: now.scents.filter((_, j) => j !== i) }))}
                >
                  ×
                </button>
              </header>
              <div className={classes.two}>
                <PlanNumber label="Rate" field={`scents[${i}].percent_of_oils`} value={line.percent_of_oils} unit="% of oils" step={0.1}
                  change={(now, value) => changeScent(now, i, { percent_of_oils: value })} />
                <PlanNumber label="Limit, % of the soap" field={`scents[${i}].limit_percent`} value={line.limit_percent} unit="%" step={0.1}
                  change={(now, value) => changeScent(now, i, { limit_percent: value })} />
              </div>
              <Drops scent={line.scent} oilsG={work?.planned.size.oils_g ?? null} onUse={(percent_of_oils) => draft.edit((now) => changeScent(now, i, { percent_of_oils }))} />
              {scent && (
                <p className={classes.about}>
                  {scent.behaviour.length > 0 && <strong>{scent.behaviour.join(', ')}. </strong>}
                  {scent.about}. Usual {scent.usual_minimum_percent} to {scent.usual_maximum_percent} %.
                </p>
              )}
            </li>
          );
        })}
      </ul>
      {plan.scents.length === 0 && <p className={classes.none}>Unscented. None is the right scent for infants.</p>}
      <PickOne
        label="Add a scent"
        testId="add-scent"
        choices={scents
          .filter((scent) => !plan.scents.some((line) => line.scent === scent.id))
          .map((scent) => ({ id: scent.id, name: scent.name, synonyms: [], tag: scent.behaviour.join(', '), about: scent.about }))}
        onPick={(id) => {
          const line = starting_scents[id];
          if (line) draft.edit((now) => ({ ...now, scents: [...now.scents, line] }));
        }}
      />
    </div>
  );
}

/** Drops that a recipe tells of, turned into the weight that is planned and weighed. */
function Drops({ scent, oilsG, onUse }: { scent: string; oilsG: number | null; onUse: (percentOfOils: number) => void }) {
  const [drops, setDrops] = useState<number | null>(null);
  const [unread, setUnread] = useState<string | null>(null);
  // What is told stays in its place while the oils are calculated again; it is planned once it is of these oils.
  const { data, error, isPlaceholderData } = useQuery({
    queryKey: ['drops', scent, drops, oilsG],
    queryFn: () => answered(api.POST('/api/amounts/scent-drops', { body: { scent, drops: drops ?? 0, oils_g: oilsG ?? 0 } })),
    enabled: drops !== null && oilsG !== null,
    placeholderData: drops === null ? undefined : keepPreviousData,
    retry: false,
  });
  return (
    <details className={classes.about}>
      <summary>The recipe says drops</summary>
      {oilsG === null && <p>First the weight of the oils: what is missing for this batch is said above.</p>}
      <NumberField
        label="Drops"
        showLabel
        value={drops}
        unit="drops"
        step={1}
        format={(value) => formatNumber(value, 0)}
        parse={parseNumber}
        unread={unread ?? undefined}
        onUnread={setUnread}
        onChange={setDrops}
        testId={`drops-${scent}`}
      />
      {data && (
        <>
          <p data-testid="drops-caution">
            <Sentence>{data.caution}</Sentence>
          </p>
          <Button disabled={isPlaceholderData} onClick={() => onUse(data.percent_of_oils)} data-testid="use-drops">
            Plan {formatNumber(data.percent_of_oils, 2)} % of the oils
          </Button>
        </>
      )}
      {error !== null && <p role="alert">{error instanceof ApiFailure && error.problems[0] ? <Sentence>{saidOf(error.problems[0])}</Sentence> : error.message}</p>}
    </details>
  );
}

function ColourTab() {
  const weights = useWeights();
  const { draft, work, problems } = useBatch();
  const { colorants, starting_colours } = useReference();
  const tellFailure = useTellFailure();
  const { plan } = draft;
  const editPortions = async (leave_out: number | null) => {
    try {
      await draft.follow(
        (now) => answered(api.POST('/api/batch-plan/portions', { body: { portions: now.portions, leave_out } })),
        (now, portions) => ({ ...now, portions }),
      );
    } catch (error) {
      tellFailure(error);
    }
  };
  const total = problems.find((problem) => problem.path === 'portions');
  return (
    <div className={classes.scroll}>
      {plan.portions.length > 0 && (
        <div className={classes.strip} aria-hidden>
          {plan.portions.map((portion, i) => (
            <span key={i} style={{ flexGrow: portion.share_percent ?? 0, background: paint(portion, colorants) }} />
          ))}
        </div>
      )}
      <ul className={classes.entries}>
        {plan.portions.map((portion, i) => (
          <li key={i} className={classes.entry} data-testid={`portion-${i}`}>
            <header>
              <input
                className={classes.name}
                aria-label={`Name of portion ${i + 1}`}
                value={portion.name}
                maxLength={60}
                onChange={(event) => {
                  const name = event.currentTarget.value;
                  draft.edit((now) => changePortion(now, i, { name }), `portion-${i}`);
                }}
                onBlur={draft.closeStep}
              />
              <span className={classes.grams}>
                {work?.planned.portions[i] && weights.tell(work.planned.portions[i].batter_g)}
              </span>
              <button type="button" className={buttons.drop} aria-label={`Leave out ${portion.name}`} onClick={() => void editPortions(i)}>
                ×
              </button>
            </header>
            <div className={classes.two}>
              <PlanNumber label="Share" field={`portions[${i}].share_percent`} value={portion.share_percent} unit="%" step={1}
                change={(now, value) => changePortion(now, i, { share_percent: value })} />
              <PickOne
                label="Add a colour"
                testId={`add-colour-${i}`}
                choices={colorants.map((one) => ({ id: one.id, name: one.name, synonyms: [one.kind], tag: one.kind, about: one.about }))}
                onPick={(id) => {
                  const line = starting_colours[id];
                  if (line) draft.edit((now) => changePortion(now, i, { colours: [...(now.portions[i]?.colours ?? []), line] }));
                }}
              />
            </div>
            {portion.colours.map((line, j) => (
              <ColourRow key={j} portion={i} index={j} line={line} />
            ))}
          </li>
        ))}
      </ul>
      {total && <p className={classes.trouble}><Sentence>{saidOf(total)}</Sentence></p>}
      {plan.portions.length === 0 && <p className={classes.none}>One colour throughout: the batter’s own.</p>}
      <button type="button" className={classes.add} onClick={() => void editPortions(null)} data-testid="add-portion">
        {plan.portions.length === 0 ? 'Split the batter' : 'One more portion'}
      </button>
    </div>
  );
}

function ColourRow({ portion, index, line }: { portion: number; index: number; line: ColourLine }) {
  const weights = useWeights();
  const { draft, work } = useBatch();
  const { colorants } = useReference();
  const known = colorants.find((one) => one.id === line.colorant);
  const weighed = work?.planned.portions[portion]?.colours[index];
  const tellFailure = useTellFailure();
  const give = async (to: ColourLine['by']) => {
    try {
      await draft.follow((now) => {
        const there = now.portions[portion]?.colours?.[index] ?? line;
        return answered(api.POST('/api/amounts/colour', { body: { line: there, to } }));
      }, change);
    } catch (error) {
      tellFailure(error);
    }
  };
  const change = (now: BatchPlan, patch: Partial<ColourLine>) =>
    changePortion(now, portion, {
      colours: (now.portions[portion]?.colours ?? []).map((one, j) => (j === index ? { ...one, ...patch } : one)),
    });
  return (
    <div className={classes.colour}>
      <span className={classes.name}>{known?.name ?? line.colorant}</span>
      <PlanNumber label={`${known?.name ?? ''} rate`} showLabel={false} field={`portions[${portion}].colours[${index}].value`} value={line.value}
        unit={line.by === 'tsp_per_500_g' ? 'tsp' : '%'} step={line.by === 'tsp_per_500_g' ? 0.25 : 0.1} change={(now, value) => change(now, { value })} />
      <SelectField
        label="Given in"
        value={line.by}
        options={[
          { value: 'tsp_per_500_g', label: 'per 500 g' },
          { value: 'percent_of_oils', label: '% of oils' },
        ]}
        onChange={(to) => void give(to)}
      />
      <span className={classes.grams}>{weighed && weights.tell(weighed.weight_g, 2)}</span>
      <button
        type="button"
        className={buttons.drop}
        aria-label={`Leave out ${known?.name ?? 'this colour'}`}
        onClick={() =>
          draft.edit((now) =>
            changePortion(now, portion, { colours: (now.portions[portion]?.colours ?? []).filter((_, j) => j !== index) }),
          )
        }
      >
        ×
      </button>
    </div>
  );
}
