import type { FormulaResult } from '../../api/types';
import { formatNumber } from '../../design/quantity';
import { useSettings } from '../../app/settings';
import { useBench } from '../BenchContext';
import classes from './Bar.module.css';
import { Reading } from './Index';

/** Firmness, times and shelf life of a bar, or what a paste holds; estimates all. */
export function ExpectTab() {
  const { live } = useBench();
  const { result, freshness } = live;
  const isStale = freshness === 'stopped' || freshness === 'unreachable';
  return (
    <div className={`${classes.indices} ${isStale ? 'stale' : ''}`}>
      {result?.paste ? <PasteTiles paste={result.paste} /> : <BarTiles bar={result?.bar ?? null} />}
    </div>
  );
}

function BarTiles({ bar }: { bar: FormulaResult['bar'] }) {
  const whole = (value: number | undefined) => (value === undefined ? '–' : formatNumber(value, 0));
  return (
    <>
      <Reading label="Unmould, est." quantity="unmould_hours_low">
        {whole(bar?.unmould_hours_low)}–{whole(bar?.unmould_hours_high)}
        <span> h</span>
      </Reading>
      <Reading label="Usable from" quantity="usable_weeks">
        {whole(bar?.usable_weeks)}
        <span> weeks</span>
      </Reading>
      <Reading label="At its best" quantity="best_weeks">
        {whole(bar?.best_weeks)}
        <span> weeks</span>
      </Reading>
      <Reading label="Firm over time" quantity="firmness_at_best">
        {whole(bar?.firmness_at_unmould)}→{whole(bar?.firmness_after_cure)}→{whole(bar?.firmness_at_best)}
      </Reading>
      <Reading label="Trace" quantity="trace_points">
        {bar?.trace ?? '–'}
      </Reading>
      <Reading label="Shelf life" quantity="shelf_months">
        {whole(bar?.shelf_months)}
        <span> months</span>
      </Reading>
    </>
  );
}

function PasteTiles({ paste }: { paste: NonNullable<FormulaResult['paste']> }) {
  const { weightUnit } = useSettings();
  const { explain } = useBench();
  const weight = (grams: number) => formatNumber(grams / weightUnit.grams, weightUnit.decimals_when_heavy);
  const tiles: [label: string, value: string, unit: string][] = [
    ['Paste', weight(paste.paste_g), weightUnit.id],
    ['Soap in it', formatNumber(paste.soap_percent, 0), '%'],
    ['Free oil', weight(paste.free_oil_g), weightUnit.id],
    ['Glycerol', weight(paste.glycerol_g), weightUnit.id],
    ...(paste.diluted
      ? ([
          ['Water to thin it', weight(paste.diluted.water_to_add_g), weightUnit.id],
          ['Yield', weight(paste.diluted.yield_g), weightUnit.id],
        ] as [string, string, string][])
      : []),
  ];
  return tiles.map(([label, value, unit]) => (
    <button
      key={label}
      type="button"
      className={`${classes.index} hatched`}
      onClick={() => explain('soap_g')}
      data-testid={`paste-${label.toLowerCase().replaceAll(' ', '-')}`}
    >
      <span className={classes.label}>{label}</span>
      <span className={classes.value}>
        {value}
        <span> {unit}</span>
      </span>
    </button>
  ));
}
