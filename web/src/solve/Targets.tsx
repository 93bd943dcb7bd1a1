import { Modal } from '@mantine/core';
import { useElementSize } from '@mantine/hooks';
import { useState } from 'react';

import { useReference } from '../api/queries';
import type { Reckoning, Solution, Target, TargetFeature } from '../api/types';
import { BandEdges } from '../shared/figures/BandEdges';
import { NumberField } from '../shared/NumberField';
import { Panel } from '../shared/Panel';
import { formatNumber, parseNumber } from '../shared/quantity';
import { SelectField } from '../shared/SelectField';
import { SaveTargetSet } from '../shared/targetSets';
import { nextDegree } from './question';
import classes from './Solve.module.css';

interface TargetsProps {
  targets: Target[];
  onChange: (targets: Target[]) => void;
  /** The blend whose figures are marked. */
  figures: Reckoning | null;
  /** How the answer meets what is asked, for what is no quality. */
  met: Solution['targets'];
  /** Aim at a bar like the one the formula makes now. */
  onLikeThis: () => void;
}

/** Tracks whose bands are the question: drag an edge or type it; a must is never missed. */
export function Targets({ targets, onChange, figures, met, onLikeThis }: TargetsProps) {
  const { target_features: features } = useReference();
  const [isSaving, setIsSaving] = useState(false);
  const asked = targets.filter((row) => row.minimum !== null || row.maximum !== null);
  const change = (index: number, part: Partial<Target>) =>
    onChange(targets.map((row, i) => (i === index ? { ...row, ...part } : row)));
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
                figures?.qualities.find((figure) => figure.quality === row.feature)?.points ??
                met.find((target) => target.feature === row.feature)?.value
              }
              onChange={(part) => change(index, part)}
            />
          );
        })}
      </ul>
      <div className={classes.more}>
        <SelectField
          label="Aim at something more"
          value=""
          options={[
            { value: '', label: 'Aim at something more …' },
            ...features
              .filter((feature) => !targets.some((row) => row.feature === feature.id))
              .map((feature) => ({ value: feature.id, label: feature.name })),
          ]}
          onChange={(feature) =>
            feature !== '' &&
            onChange([...targets, { feature, minimum: null, maximum: null, must: false, weight: 1 }])
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
      <Modal opened={isSaving} onClose={() => setIsSaving(false)} title="Save these targets">
        <SaveTargetSet targets={asked} onSaved={() => setIsSaving(false)} onCancel={() => setIsSaving(false)} />
      </Modal>
    </Panel>
  );
}

interface TargetRowProps {
  row: Target;
  feature: TargetFeature;
  value: number | undefined;
  onChange: (part: Partial<Target>) => void;
}

const MIDDLE = 15;

function TargetRow({ row, feature, value, onChange }: TargetRowProps) {
  const { ref, width } = useElementSize();
  const [unread, setUnread] = useState<{ minimum?: string; maximum?: string }>({});
  const { axis_minimum: low, axis_maximum: high } = feature;
  const x = (points: number) => ((Math.min(high, Math.max(low, points)) - low) * Math.max(width, 1)) / (high - low);
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
      <div ref={ref} className={classes.room}>
        <svg className={classes.scale} viewBox={`0 0 ${Math.max(width, 1)} 30`}>
          <line className={classes.axis} x1="0" x2={width} y1={MIDDLE} y2={MIDDLE} />
          <BandEdges
            name={feature.name}
            minimum={row.minimum ?? null}
            maximum={row.maximum ?? null}
            axisMinimum={low}
            axisMaximum={high}
            width={Math.max(width, 1)}
            top={5}
            height={20}
            onChange={(edge, points) => onChange({ [edge]: points })}
          />
          {value !== undefined && !isOutside && <circle className={classes.inside} cx={x(value)} cy={MIDDLE} r="6" />}
          {value !== undefined && isOutside && (
            <path className={classes.outside} d={`M${x(value)} ${MIDDLE - 8} l7.5 8 -7.5 8 -7.5 -8 Z`} />
          )}
        </svg>
      </div>
      {edgeField('minimum', 'lower edge')}
      {edgeField('maximum', 'upper edge')}
      <button
        type="button"
        className={classes.must}
        aria-pressed={row.must}
        disabled={isOpen}
        onClick={() => onChange(nextDegree(row))}
        title={
          row.must
            ? 'Never missed. Touch to make it a wish'
            : `A wish: each point missed counts ${formatNumber(row.weight, 1, 0)}. Touch to make it weigh more, then a must`
        }
        data-testid={`degree-${row.feature}`}
      >
        {row.must ? 'must' : row.weight === 1 ? 'wish' : `×${formatNumber(row.weight, 1, 0)}`}
      </button>
      <span className={classes.value}>{value === undefined ? '–' : formatNumber(value, 1)}</span>
    </li>
  );
}
