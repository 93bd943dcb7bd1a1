import { useState } from 'react';

import { useReference } from '../api/queries';
import type { FormulaResult, Solution, Target, TargetFeature } from '../api/types';
import { Dialog } from '../design/Dialog';
import { Scale } from '../design/scales/Scale';
import { NumberField } from '../design/NumberField';
import { Panel } from '../design/Panel';
import { formatNumber, parseNumber } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { SaveTargetSet } from '../design/targetSets';
import { nextDegree } from './question';
import classes from './Solve.module.css';

interface TargetsProps {
  targets: Target[];
  onChange: (targets: Target[]) => void;
  /** The blend whose values are marked. */
  result: FormulaResult | null;
  /** How the answer meets what is asked, for what is no quality. */
  met: Solution['targets'];
  /** Aim at a bar like the one the formula makes now. */
  onLikeThis: () => void;
}

/** Quality scales whose target ranges are the question: drag an edge or type it; a required one is never missed. */
export function Targets({ targets, onChange, result, met, onLikeThis }: TargetsProps) {
  const { target_features: features } = useReference();
  const [isSaving, setIsSaving] = useState(false);
  const asked = targets.filter((row) => row.minimum !== null || row.maximum !== null);
  const change = (index: number, patch: Partial<Target>) =>
    onChange(targets.map((row, i) => (i === index ? { ...row, ...patch } : row)));
  return (
    <Panel title="What it should be" aside="drag an edge, or type it">
      <ul className={classes.targets} aria-label="Targets">
        {targets.map((row, index) => {
          const feature = features.find((known) => known.id === row.feature);
          return feature === undefined ? null : (
            <TargetRow
              key={row.feature}
              row={row}
              feature={feature}
              value={
                result?.qualities.find((quantity) => quantity.quality === row.feature)?.points ??
                met.find((target) => target.feature === row.feature)?.value
              }
              onChange={(patch) => change(index, patch)}
            />
          );
        })}
      </ul>
      <div className={classes.more}>
        <SelectField
          label="Add a target"
          value=""
          options={[
            { value: '', label: 'Add a target …' },
            ...features
              .filter((feature) => !targets.some((row) => row.feature === feature.id))
              .map((feature) => ({ value: feature.id, label: feature.name })),
          ]}
          onChange={(feature) =>
            feature !== '' &&
            onChange([...targets, { feature, minimum: null, maximum: null, required: false, weight: 1 }])
          }
          testId="add-target"
        />
        <button type="button" className={classes.chip} onClick={onLikeThis} data-testid="like-this">
          more like this bar
        </button>
        <button
          type="button"
          className={classes.chip}
          onClick={() => setIsSaving(true)}
          disabled={asked.length === 0}
          data-testid="save-targets"
        >
          save by name …
        </button>
      </div>
      <Dialog opened={isSaving} onClose={() => setIsSaving(false)} title="Save these targets">
        <SaveTargetSet targets={asked} onSaved={() => setIsSaving(false)} onCancel={() => setIsSaving(false)} />
      </Dialog>
    </Panel>
  );
}

interface TargetRowProps {
  row: Target;
  feature: TargetFeature;
  value: number | undefined;
  onChange: (patch: Partial<Target>) => void;
}

function TargetRow({ row, feature, value, onChange }: TargetRowProps) {
  const [unread, setUnread] = useState<{ minimum?: string; maximum?: string }>({});
  const { axis_minimum: low, axis_maximum: high } = feature;
  const isOpen = row.minimum === null && row.maximum === null;
  const from = row.minimum ?? low;
  const to = row.maximum ?? high;
  const isOutside = value !== undefined && !isOpen && (value < from - 0.05 || value > to + 0.05);
  const isUpsideDown = from > to;

  const edgeField = (edge: 'minimum' | 'maximum', label: string) => (
    <NumberField
      label={`${feature.name}, ${label}`}
      value={row[edge] ?? null}
      unit=""
      step={1}
      format={(shown) => formatNumber(shown, 1, 0)}
      parse={parseNumber}
      unread={unread[edge]}
      onUnread={(text) => setUnread((now) => ({ ...now, [edge]: text ?? undefined }))}
      onChange={(points) => onChange({ [edge]: points })}
      problem={isUpsideDown && edge === 'maximum' ? 'Below its lower edge. Swap the two.' : undefined}
      testId={`${row.feature}-${edge}`}
    />
  );

  return (
    <li className={classes.target} data-testid={`target-${row.feature}`}>
      <span className={classes.targetName}>{feature.name}</span>
      <div className={classes.room}>
        <Scale
          low={low}
          high={high}
          range={{ minimum: row.minimum ?? null, maximum: row.maximum ?? null }}
          edges={{ name: feature.name, onChange: (edge, points) => onChange({ [edge]: points }) }}
          marks={value === undefined ? [] : [isOutside ? { at: value, shape: 'diamond', tone: 'watch' } : { at: value, shape: 'disc', tone: 'filled' }]}
        />
      </div>
      {edgeField('minimum', 'lower edge')}
      {edgeField('maximum', 'upper edge')}
      <button
        type="button"
        className={classes.required}
        aria-pressed={row.required}
        disabled={isOpen}
        onClick={() => onChange(nextDegree(row))}
        title={
          row.required
            ? 'Never missed. Touch to make it a preferred target'
            : `A preferred target: each point missed counts ${formatNumber(row.weight, 1, 0)}. Touch to make it weigh more, then required`
        }
        data-testid={`degree-${row.feature}`}
      >
        {row.required ? 'required' : row.weight === 1 ? 'preferred' : `×${formatNumber(row.weight, 1, 0)}`}
      </button>
      <span className={classes.value}>{value === undefined ? '–' : formatNumber(value, 1)}</span>
    </li>
  );
}
