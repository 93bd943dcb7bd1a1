import { Menu, TextInput } from '@mantine/core';
import { useState } from 'react';

import { useMoulds, useReference } from '../api/queries';
import type { BatchPlan, MouldView, SizeBy } from '../api/types';
import buttons from '../design/buttons.module.css';
import { MenuButton } from '../design/MenuButton';
import { Panel } from '../design/Panel';
import { formatNumber, parseWeight } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { useSettings } from '../app/settings';
import { Sentence } from '../design/Sentence';
import { saidOf, useWeights } from '../design/units';
import classes from './Batch.module.css';
import { PlanNumber, useBatch } from './BatchContext';
import { MouldEditor } from './MouldEditor';
import { CutterPick } from './CutterPick';
import { changeCut, changeMould } from './plan';

const BY_OF_PASTE = new Set<SizeBy['by']>(['oils_g', 'batter_g', 'limiting']);
const BY: { value: SizeBy['by']; label: string }[] = [
  { value: 'moulds', label: 'the moulds' },
  { value: 'oils_g', label: 'a weight of oils' },
  { value: 'batter_g', label: 'a weight of batter' },
  { value: 'bars', label: 'a number of bars' },
  { value: 'limiting', label: 'the oil that runs short' },
];

/** What the batch is sized by, and the moulds it goes into. */
export function SizePanel() {
  const weights = useWeights();
  const { draft, work, isStale, problems } = useBatch();
  const { plan } = draft;
  const { weight_units: units } = useReference();
  const { weightUnit } = useSettings();
  const size = plan.size;
  const setSize = (patch: Partial<SizeBy>) => (now: BatchPlan) => ({ ...now, size: { ...now.size, ...patch } });
  const weight = {
    unit: weightUnit.id,
    step: 10,
    format: (grams: number) => formatNumber(grams / weightUnit.grams, weightUnit.decimals, 0),
    parse: (text: string) => parseWeight(text, weightUnit.id, units),
  };
  const result = work?.planned.size;
  const isPaste = work?.process?.makes === 'paste';
  return (
    <Panel
      title={isPaste ? 'Size and jars' : 'Size and moulds'}
      aside={result ? `${weights.tell(result.oils_g)} oils · ${weights.tell(result.batter_g)} batter` : ''}
    >
      <div className={classes.two}>
        <SelectField
          showLabel
          label="Sized by"
          value={size.by}
          options={isPaste ? BY.filter((one) => BY_OF_PASTE.has(one.value)) : BY}
          onChange={(by) => draft.edit(setSize({ by }))}
          testId="size-by"
        />
        <TextInput
          type="date"
          label="Make day on"
          value={plan.make_on ?? ''}
          onChange={(event) => {
            const make_on = event.currentTarget.value || null;
            draft.edit((now) => ({ ...now, make_on }), 'make_on');
          }}
          data-testid="make-on"
        />
        {size.by === 'oils_g' && (
          <PlanNumber label="Oils" field="size.value" value={size.value} {...weight} change={(now, value) => setSize({ value })(now)} />
        )}
        {size.by === 'batter_g' && (
          <PlanNumber label="Batter" field="size.value" value={size.value} {...weight} change={(now, value) => setSize({ value })(now)} />
        )}
        {size.by === 'bars' && (
          <div className={classes.two}>
            <PlanNumber label="Bars" field="size.value" value={size.value} unit="" step={1} change={(now, value) => setSize({ value })(now)} />
            <PlanNumber
              label="Cured bar"
              field="size.cured_bar_g"
              value={size.cured_bar_g}
              {...weight}
              step={1}
              change={(now, value) => setSize({ cured_bar_g: value })(now)}
            />
          </div>
        )}
      </div>
      {size.by === 'limiting' && (
        <div className={classes.three}>
          {plan.formula.blend.lines.map((line) => (
            <PlanNumber
              key={line.oil}
              label={`${work?.planned.result.oils.find((oil) => oil.oil === line.oil)?.name ?? line.oil} left`}
              field={`size.available_g.${line.oil}`}
              value={size.available_g[line.oil]}
              {...weight}
              change={(now, value) => {
                const others = Object.entries(now.size.available_g).filter(([oil]) => oil !== line.oil);
                const left = value === null ? others : [...others, [line.oil, value] as const];
                return setSize({ available_g: Object.fromEntries(left) })(now);
              }}
            />
          ))}
        </div>
      )}
      {isPaste ? (
        <div className={classes.two}>
          <PlanNumber label="A jar takes" field="jar_g" value={plan.jar_g} {...weight} change={(now, value) => ({ ...now, jar_g: value })} />
        </div>
      ) : (
        <>
          <ul className={classes.moulds} aria-label="Moulds">
            {plan.moulds.map((use, i) => (
              <MouldRow key={`${use.mould.id}-${i}`} index={i} />
            ))}
          </ul>
          <AddMould />
        </>
      )}
      {problems
        .filter((problem) => problem.path === 'moulds' || problem.path === 'size.available_g')
        .map((problem) => (
          <p key={problem.code} className={classes.trouble}>
            <Sentence>{saidOf(problem)}</Sentence>
          </p>
        ))}
      {result && !isPaste && (
        <p className={`${classes.words} ${isStale ? 'stale' : ''}`} data-testid="size-words">
          <Sentence>{result.words}</Sentence>
          {result.limiting && ` ${result.limiting} is what limits it.`}
        </p>
      )}
    </Panel>
  );
}

function MouldRow({ index }: { index: number }) {
  const { draft, work } = useBatch();
  const use = draft.plan.moulds[index];
  const [isEditing, setIsEditing] = useState(false);
  const moulds = useMoulds();
  if (use === undefined) return null;
  // The plan has the mould as it was when it was taken; batches poured since may have taught it. An archived one becomes a new one.
  const kept = moulds.find((view) => view.mould.id === use.mould.id);
  const { shape } = use.mould;
  const fill = work?.planned.moulds[index];
  const hasWalls = shape.kind === 'loaf' || shape.kind === 'slab' || shape.kind === 'cylinder';
  const at = `moulds[${index}]`;
  const setCut = (patch: Parameters<typeof changeCut>[1]) => (now: BatchPlan) =>
    changeMould(now, index, (one) => changeCut(one, patch));
  return (
    <li className={classes.mould} data-testid={`mould-${index}`}>
      <header>
        <button type="button" className={buttons.link} onClick={() => setIsEditing(true)}>
          {use.mould.name}
        </button>
        <span className="muted">
          {fill && `${formatNumber(fill.batter_ml, 0)} of ${formatNumber(fill.capacity_ml, 0)} mL`}
        </span>
        <button
          type="button"
          className={buttons.drop}
          aria-label={`Leave out ${use.mould.name}`}
          onClick={() => draft.edit((now) => ({ ...now, moulds: now.moulds.filter((_, i) => i !== index) }))}
        >
          ×
        </button>
      </header>
      {hasWalls && (
        <div className={classes.four}>
          <PlanNumber label="Headroom" field={`${at}.headroom_mm`} value={use.headroom_mm} unit="mm" step={1}
            change={(now, value) => changeMould(now, index, (one) => ({ ...one, headroom_mm: value }))} />
          <CutterPick cutter={use.cut?.cutter ?? null} onPick={(cutter) => draft.edit(setCut({ cutter }))} />
          <PlanNumber label={use.cut?.cutter ? 'Bar, without it' : 'Bar'} field={`${at}.cut.bar_mm`} value={use.cut?.bar_mm} unit="mm" step={1}
            change={(now, value) => setCut({ bar_mm: value })(now)} />
          {shape.kind === 'slab' ? (
            <PlanNumber label="by" field={`${at}.cut.bar_width_mm`} value={use.cut?.bar_width_mm} unit="mm" step={1}
              change={(now, value) => setCut({ bar_width_mm: value })(now)} />
          ) : (
            <PlanNumber label="Trim" field={`${at}.cut.trim_mm`} value={use.cut?.trim_mm} unit="mm" step={1}
              change={(now, value) => setCut({ trim_mm: value })(now)} />
          )}
          <PlanNumber label="Kerf" field={`${at}.cut.kerf_mm`} value={use.cut?.kerf_mm} unit="mm" step={0.5}
            change={(now, value) => setCut({ kerf_mm: value })(now)} />
        </div>
      )}
      {hasWalls && shape.kind !== 'slab' && (
        <label className={classes.check}>
          <input
            type="checkbox"
            checked={use.cut?.halved ?? false}
            onChange={(event) => {
              const halved = event.currentTarget.checked;
              draft.edit(setCut({ halved }));
            }}
          />
          halved lengthwise too: every slice makes two bars
        </label>
      )}
      {isEditing && (
        <MouldEditor
          mould={kept?.mould ?? { ...use.mould, id: '' }}
          revision={kept?.revision ?? 0}
          onClose={() => setIsEditing(false)}
          onKept={({ mould, starting_use: start }) =>
            draft.edit((now) => changeMould(now, index, (one) => (mould.shape.kind === one.mould.shape.kind ? { ...one, mould } : start)))
          }
        />
      )}
    </li>
  );
}

function AddMould() {
  const { draft } = useBatch();
  const moulds = useMoulds();
  const [isNew, setIsNew] = useState(false);
  const take = ({ starting_use: use }: MouldView) => draft.edit((now) => ({ ...now, moulds: [...now.moulds, use] }));
  return (
    <>
      <MenuButton
        dropdown={{ mah: 360, style: { overflowY: 'auto' } }}
        button={
          <button type="button" className={classes.add} data-testid="add-mould">
            Add a mould ▾
          </button>
        }
      >
        {moulds.map((view) => (
          <Menu.Item key={view.mould.id} onClick={() => take(view)} rightSection={`${formatNumber(view.capacity_ml, 0)} mL`}>
            {view.mould.name}
          </Menu.Item>
        ))}
        <Menu.Divider />
        <Menu.Item onClick={() => setIsNew(true)}>A new mould …</Menu.Item>
      </MenuButton>
      {isNew && <MouldEditor mould={null} revision={0} onClose={() => setIsNew(false)} onKept={take} />}
    </>
  );
}
