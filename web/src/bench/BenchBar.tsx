import type { ReactNode } from 'react';

import { useWorkshop } from '../api/workshop';
import buttons from '../design/buttons.module.css';
import { formatNumber, formatShare } from '../design/quantity';
import { useSettings } from '../app/settings';
import classes from './BenchBar.module.css';
import { useBench } from './BenchContext';
import { StateMark } from './BenchHeader';
import { basisOf, enteredSum } from './edits';

/** Lye, water, superfat and the state, always in sight; while the lye is open, what it waits for. */
export function BenchBar({ children }: { children: ReactNode }) {
  const { draft, live, explain } = useBench();
  const { weightUnit } = useSettings();
  const { blend } = draft.formula;
  const isFresh = live.freshness === 'fresh' || live.freshness === 'pending';
  const result = isFresh ? live.result : null;
  const weights = result?.weights;
  const unit = weightUnit.id;
  const interval = result?.lye.superfat_interval;
  const lyes = [
    ['naoh', 'NaOH'],
    ['koh', 'KOH'],
  ] as const;
  const used = lyes.filter(([kind]) => (result === null ? (kind === 'koh') === (draft.formula.lye.koh?.value === 100) : result.lye[`${kind}_g`] > 0));
  return (
    <div className={classes.bar} role="region" aria-label="Lye, water, superfat" data-testid="bench-bar">
      <span className={classes.figure}>
        Oils{' '}
        <b>
          {basisOf(blend) === 'weight_g'
            ? formatNumber(enteredSum(blend) / weightUnit.grams, weightUnit.decimals)
            : formatShare(enteredSum(blend))}
        </b>{' '}
        {basisOf(blend) === 'weight_g' ? unit : '%'}
      </span>
      {used.map(([kind, name]) => (
        <button key={kind} type="button" className={classes.figure} onClick={() => explain(`${kind}_g`)} disabled={result === null}>
          {name} <b>{weights === undefined ? '–' : formatNumber(weights[kind], weights.lye_decimals)}</b> {weights && unit}
        </button>
      ))}
      <button type="button" className={classes.figure} onClick={() => explain('plain_water_g')} disabled={result === null}>
        Water <b>{weights === undefined ? '–' : formatNumber(weights.water, weights.decimals)}</b> {weights && unit}
      </button>
      <span className={classes.figure}>
        Superfat <b>{draft.formula.superfat_percent === null ? '–' : formatNumber(draft.formula.superfat_percent, 1, 0)}</b> %
        {interval && (
          <small>
            {' '}
            {formatNumber(interval.low_percent, 1)} to {formatNumber(interval.high_percent, 1)}
          </small>
        )}
      </span>
      <StateMark live={live} />
      <LyeHint />
      <span className={classes.spring} />
      {children}
    </div>
  );
}

/** What the lye waits for, and the tubs of the workshop to choose its purity from. */
function LyeHint() {
  const { draft, live } = useBench();
  const workshop = useWorkshop();
  const { lye } = draft.formula;
  const needsNaoh = lye.koh?.value !== 100 && lye.naoh_purity_percent === null;
  const needsKoh = lye.koh != null && lye.koh.purity_percent === null;
  if (live.freshness === 'fresh' || (!needsNaoh && !needsKoh)) return null;
  const tubs = (workshop?.tubs ?? []).filter((tub) => (tub.lye === 'naoh' ? needsNaoh : needsKoh));
  const take = (tub: (typeof tubs)[number]) =>
    draft.edit((now) => ({
      ...now,
      lye:
        tub.lye === 'naoh'
          ? { ...now.lye, naoh_purity_percent: tub.purity_percent }
          : { ...now.lye, koh: now.lye.koh ? { ...now.lye.koh, purity_percent: tub.purity_percent } : null },
    }));
  return (
    <span className={classes.hint} data-testid="lye-hint">
      The lye follows when its purity is entered{tubs.length > 0 ? ': ' : ', under Composition.'}
      {tubs.map((tub, index) => (
        <span key={`${tub.name}-${index}`}>
          {index > 0 && ' or '}
          <button type="button" className={buttons.link} onClick={() => take(tub)}>
            {tub.name}, {formatNumber(tub.purity_percent, 1, 0)} %
          </button>
        </span>
      ))}
    </span>
  );
}
