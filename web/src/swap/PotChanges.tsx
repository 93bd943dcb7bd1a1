import type { Reckoning } from '../api/types';
import { useFigures } from '../shared/figures/FiguresContext';
import { Panel } from '../shared/Panel';
import { formatChange, formatNumber } from '../shared/quantity';
import { useSettings } from '../shared/settings';
import tile from '../shared/tile.module.css';
import classes from './Swap.module.css';

interface PotChangesProps {
  before: Reckoning;
  after: Reckoning;
  /** Oils per kg, when every one of them has a price. */
  cost?: number | null;
  costBefore?: number | null;
}

/** What is different at the pot and after: lye and water anew, firmness, times, trace, shelf life. */
export function PotChanges({ before, after, cost, costBefore }: PotChangesProps) {
  const { weightUnit } = useSettings();
  const weight = (grams: number) => grams / weightUnit.grams;
  const { decimals, lye_decimals: lyeDecimals } = weightUnit;
  const lyes = (['naoh', 'koh'] as const).filter((kind) => after.lye[`${kind}_g`] > 0 || before.lye[`${kind}_g`] > 0);
  const [was, is] = [before.bar, after.bar];
  return (
    <Panel title="What changes at the pot" aside="reckoned anew">
      <div className={classes.tiles}>
        {lyes.map((kind) => (
          <Tile
            key={kind}
            figure={`${kind}_g`}
            label={kind === 'naoh' ? 'NaOH' : 'KOH'}
            isCaustic
            value={formatNumber(weight(after.lye[`${kind}_g`]), lyeDecimals)}
            unit={weightUnit.id}
            change={formatChange(weight(after.lye[`${kind}_g`] - before.lye[`${kind}_g`]), lyeDecimals)}
          />
        ))}
        <Tile
          figure="plain_water_g"
          label="Water"
          value={formatNumber(weight(after.water.plain_water_g), decimals)}
          unit={weightUnit.id}
          change={formatChange(weight(after.water.plain_water_g - before.water.plain_water_g), decimals)}
        />
        {is && was && (
          <>
            <Tile
              figure="unmould_hours_low"
              label="Unmould, est."
              value={`${formatNumber(is.unmould_hours_low, 0)}–${formatNumber(is.unmould_hours_high, 0)}`}
              unit="h"
              change={formatChange(is.unmould_hours_low - was.unmould_hours_low)}
            />
            <Tile
              figure="trace_points"
              label="Trace"
              value={is.trace}
              unit=""
              change={is.trace === was.trace ? '' : is.trace_points > was.trace_points ? '↑' : '↓'}
            />
            <Tile
              figure="firmness_at_best"
              label="Firm at best"
              value={formatNumber(is.firmness_at_best, 0)}
              unit=""
              change={formatChange(is.firmness_at_best - was.firmness_at_best)}
            />
            <Tile
              figure="shelf_months"
              label="Shelf life"
              value={formatNumber(is.shelf_months, 0)}
              unit="mo"
              change={formatChange(is.shelf_months - was.shelf_months)}
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
  figure: string;
  label: string;
  value: string;
  unit: string;
  change: string;
  isCaustic?: boolean;
}

function Tile({ figure, label, value, unit, change, isCaustic = false }: TileProps) {
  const { explain } = useFigures();
  return (
    <button
      type="button"
      className={`${classes.tile} ${isCaustic ? tile.caustic : ''}`}
      onClick={() => explain(figure)}
      data-testid={`changed-${figure}`}
    >
      <span>{label}</span>
      <b>
        {value}
        <small> {unit}</small> <i>{change}</i>
      </b>
    </button>
  );
}
