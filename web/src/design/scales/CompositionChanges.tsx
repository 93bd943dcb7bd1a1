import type { FormulaResult } from '../../api/types';
import { Panel } from '../Panel';
import { formatChange, formatNumber } from '../quantity';
import { useSettings } from '../../app/settings';
import tile from '../tile.module.css';
import { useShownResult } from './ResultContext';
import classes from './CompositionChanges.module.css';

interface CompositionChangesProps {
  /** Null when there is nothing to compare with: then only what it comes to is shown. */
  before: FormulaResult | null;
  after: FormulaResult;
  /** Oils per kg, when every one of them has a price. */
  cost?: number | null;
  costBefore?: number | null;
  /** False while no purity is entered: then no weight of lye or water is told. */
  lyeIsKnown?: boolean;
}

/** What is different while making and after: lye and water again, firmness, times, trace, shelf life. */
export function CompositionChanges({ before, after, cost, costBefore, lyeIsKnown = true }: CompositionChangesProps) {
  const { weightUnit } = useSettings();
  const weight = (grams: number) => grams / weightUnit.grams;
  const { decimals, lye_decimals: lyeDecimals } = weightUnit;
  const lyes = (lyeIsKnown ? (['naoh', 'koh'] as const) : []).filter((kind) => after.lye[`${kind}_g`] > 0 || (before?.lye[`${kind}_g`] ?? 0) > 0);
  const [was, is] = [before?.bar, after.bar];
  const against = (change: number | undefined, places = 0) => (change === undefined ? '' : formatChange(change, places));
  return (
    <Panel title={before ? 'What changes while making' : 'While making'} aside="calculated again">
      <div className={classes.tiles}>
        {lyes.map((kind) => (
          <Tile
            key={kind}
            quantity={`${kind}_g`}
            label={kind === 'naoh' ? 'NaOH' : 'KOH'}
            isCaustic
            value={formatNumber(weight(after.lye[`${kind}_g`]), lyeDecimals)}
            unit={weightUnit.id}
            change={against(before ? weight(after.lye[`${kind}_g`] - before.lye[`${kind}_g`]) : undefined, lyeDecimals)}
          />
        ))}
        {lyeIsKnown && (
          <Tile
            quantity="plain_water_g"
            label="Water"
            value={formatNumber(weight(after.water.plain_water_g), decimals)}
            unit={weightUnit.id}
            change={against(before ? weight(after.water.plain_water_g - before.water.plain_water_g) : undefined, decimals)}
          />
        )}
        {is && (
          <>
            <Tile
              quantity="unmould_hours_low"
              label="Unmould, est."
              value={`${formatNumber(is.unmould_hours_low, 0)}–${formatNumber(is.unmould_hours_high, 0)}`}
              unit="h"
              change={against(was ? is.unmould_hours_low - was.unmould_hours_low : undefined)}
            />
            <Tile
              quantity="trace_points"
              label="Trace"
              value={is.trace}
              unit=""
              change={!was || is.trace === was.trace ? '' : is.trace_points > was.trace_points ? '↑' : '↓'}
            />
            <Tile
              quantity="firmness_at_best"
              label="Firm at best"
              value={formatNumber(is.firmness_at_best, 0)}
              unit=""
              change={against(was ? is.firmness_at_best - was.firmness_at_best : undefined)}
            />
            <Tile
              quantity="shelf_months"
              label="Shelf life"
              value={formatNumber(is.shelf_months, 0)}
              unit="mo"
              change={against(was ? is.shelf_months - was.shelf_months : undefined)}
            />
          </>
        )}
        {cost != null && (
          <div className={classes.fact} data-testid="changed-cost">
            <span>Oils, per kg</span>
            <b>
              {formatNumber(cost, 2)} <i>{costBefore == null ? '' : formatChange(cost - costBefore, 2)}</i>
            </b>
          </div>
        )}
      </div>
    </Panel>
  );
}

interface TileProps {
  quantity: string;
  label: string;
  value: string;
  unit: string;
  change: string;
  isCaustic?: boolean;
}

function Tile({ quantity, label, value, unit, change, isCaustic = false }: TileProps) {
  const { explain } = useShownResult();
  return (
    <button
      type="button"
      className={`${classes.tile} ${isCaustic ? tile.caustic : ''}`}
      onClick={() => explain(quantity)}
      data-testid={`changed-${quantity}`}
    >
      <span>{label}</span>
      <b>
        {value}
        <small> {unit}</small> <i>{change}</i>
      </b>
    </button>
  );
}
