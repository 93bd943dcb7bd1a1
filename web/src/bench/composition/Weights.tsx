import type { ReactNode } from 'react';

import type { FormulaResult } from '../../api/types';
import { formatNumber } from '../../design/quantity';
import { useSettings } from '../../app/settings';
import tile from '../../design/tile.module.css';
import { Advice } from '../../design/Sentence';
import { useBench } from '../BenchContext';
import { SuperfatStrip } from './SuperfatStrip';
import classes from './Weights.module.css';

/** The weights that follow, never shown as today's when they are not, and how sure the superfat is. */
export function Weights() {
  const { live } = useBench();
  const { result } = live;
  const isStale = live.freshness === 'stopped' || live.freshness === 'unreachable';
  const unsafe = live.advice.filter((one) => one.about === 'lye');

  return (
    <>
      <div className={`${classes.results} ${isStale ? 'stale' : ''}`} aria-busy={live.freshness === 'pending'}>
        <LyeTile result={result} kind="naoh" />
        <LyeTile result={result} kind="koh" />
        <Tile
          quantity="plain_water_g"
          label={result && (result.liquids.length > 0 || result.lye.master) ? 'Plain water' : 'Water'}
          value={result?.weights.water}
          decimals={result?.weights.decimals}
          testId="water-to-weigh"
        >
          <AlsoIn grams={result?.water.plain_water_g} decimals={1} />
        </Tile>
      </div>
      <Extras result={result} isStale={isStale} />
      <SuperfatStrip isStale={isStale} />
      {isStale && result && (
        <div className={classes.last} role="status" data-testid="last-good">
          <strong>Last good result,</strong>{' '}
          {live.freshness === 'unreachable' ? 'no answer from the server.' : 'not those of what is entered now.'}
        </div>
      )}
      {!isStale &&
        unsafe.map((danger) => (
          <div key={danger.code} className={classes.danger} role="alert">
            <Advice of={danger} />
          </div>
        ))}
      {!isStale && result && unsafe.length === 0 && (
        <div className={classes.caution}>
          Gloves, goggles. Lye into the liquid, slowly, never the reverse.
          <br />
          {result.water.in_words}
        </div>
      )}
    </>
  );
}

function LyeTile({ result, kind }: { result: FormulaResult | null; kind: 'naoh' | 'koh' }) {
  const { draft } = useBench();
  const { weightUnit } = useSettings();
  const isUsed = result === null ? (kind === 'koh') === (draft.formula.lye.koh?.value === 100) : result.lye[`${kind}_g`] > 0;
  if (!isUsed) return null;
  const name = kind === 'naoh' ? 'NaOH' : 'KOH';
  const weights = result?.weights;
  const solution = weights?.[`${kind}_solution`] ?? null;
  const decimals = weights?.lye_decimals ?? 1;
  return (
    <Tile
      quantity={`${kind}_g`}
      label={solution === null ? name : `${name} master`}
      isCaustic
      value={solution ?? weights?.[kind]}
      decimals={decimals}
      testId={kind === 'naoh' ? 'lye-to-weigh' : 'koh-to-weigh'}
    >
      {solution === null ? (
        <AlsoIn grams={result?.lye[`${kind}_g`]} decimals={2} />
      ) : (
        <div className={classes.also}>
          holds {formatNumber(weights?.[kind] ?? 0, decimals)} {weightUnit.id} {name}
        </div>
      )}
    </Tile>
  );
}

interface TileProps {
  quantity: string;
  label: string;
  isCaustic?: boolean;
  value?: number;
  decimals?: number;
  testId: string;
  children: ReactNode;
}

function Tile({ quantity, label, isCaustic = false, value, decimals = 1, testId, children }: TileProps) {
  const { explain } = useBench();
  const { weightUnit } = useSettings();
  return (
    <button
      type="button"
      className={`${classes.result} ${isCaustic ? tile.caustic : ''} hatched`}
      onClick={() => explain(quantity)}
    >
      <span className={classes.label}>
        {label} {isCaustic && <span>caustic</span>}
      </span>
      <div className={classes.both}>
        <div className={classes.weight} data-testid={testId}>
          {value === undefined ? '–' : formatNumber(value, decimals)}
          <span>{weightUnit.id}</span>
        </div>
        {children}
      </div>
    </button>
  );
}

/** The same weight in the other system, for the second scale on the table. */
function AlsoIn({ grams, decimals }: { grams?: number; decimals: number }) {
  const { weightUnit, weightUnits } = useSettings();
  const isMetric = weightUnit.id === 'g' || weightUnit.id === 'kg';
  const other = weightUnits.find((unit) => unit.id === (isMetric ? 'oz' : 'g'));
  if (grams === undefined || other === undefined) return <div className={classes.also}>&nbsp;</div>;
  return (
    <div className={classes.also}>
      {formatNumber(grams / other.grams, isMetric ? 2 : decimals)} {other.id}
    </div>
  );
}

/** Liquids and additives in a line, so that nothing to be weighed hides behind a tab. */
function Extras({ result, isStale }: { result: FormulaResult | null; isStale: boolean }) {
  if (result === null || result.liquids.length + result.additives.length === 0) return null;
  const { weights } = result;
  const items = [
    ...result.liquids.map((liquid, i) => [liquid.name, weights.liquids[i] ?? 0, weights.decimals] as const),
    ...result.additives.map((extra, i) => [extra.name, weights.additives[i] ?? 0, weights.lye_decimals] as const),
  ];
  return (
    <div className={`${classes.extras} ${isStale ? 'stale' : ''}`} data-testid="extras">
      {items.map(([name, weight, decimals], i) => (
        <span key={`${name}-${i}`}>
          {name}{' '}
          <b>
            {formatNumber(weight, decimals)} {weights.unit}
          </b>
        </span>
      ))}
    </div>
  );
}
