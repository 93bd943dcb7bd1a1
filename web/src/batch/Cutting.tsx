import { useState } from 'react';

import { useReference } from '../api/queries';
import type { CutPlan } from '../api/types';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { useShown, useWeights } from '../design/units';
import classes from './Batch.module.css';
import { useBatch } from './BatchContext';
import { changeCut, changeMould, paint } from './plan';
import { Sentence } from '../design/Sentence';

/** The cutting plan of a mould, drawn to scale, with the alternatives beside it. */
export function Cutting() {
  const { draft, work, isStale } = useBatch();
  const { colorants } = useReference();
  const weights = useWeights();
  const [chosen, setChosen] = useState(0);
  const fills = work?.planned.moulds ?? [];
  const index = Math.min(chosen, Math.max(fills.length - 1, 0));
  const fill = fills[index];
  const cut = fill?.cuts[0];
  return (
    <Panel
      title="In the mould"
      aside={
        fills.length > 1 ? (
          <span className={classes.picks}>
            {fills.map((one, i) => (
              <button key={i} type="button" aria-pressed={i === index} onClick={() => setChosen(i)}>
                {one.name}
              </button>
            ))}
          </span>
        ) : (
          (fill?.name ?? '')
        )
      }
    >
      <div className={isStale ? 'stale' : ''}>
        {fill === undefined && <p className={classes.none}>Choose a mould to see how the batter stands in it, and how it is cut.</p>}
        {cut && cut.pieces.length > 0 && <Drawing cut={cut} tint={draft.plan.portions.map((portion) => paint(portion, colorants))} />}
        {fill && (
          <dl className={classes.result}>
            <div>
              <dt>Poured</dt>
              <dd>{weights.tell(fill.batter_g)}</dd>
            </div>
            {fill.height_mm !== null && fill.height_mm !== undefined && (
              <div>
                <dt>High</dt>
                <dd>{formatNumber(fill.height_mm, 0)} mm</dd>
              </div>
            )}
            {cut && (
              <>
                <div>
                  <dt>Bars</dt>
                  <dd>{cut.bars}</dd>
                </div>
                <div>
                  <dt>Wet bar</dt>
                  <dd>{weights.tell(cut.wet_g)}</dd>
                </div>
                <div>
                  <dt>Cured, est.</dt>
                  <dd>{weights.tell(cut.cured_g)}</dd>
                </div>
                <div>
                  <dt>Over</dt>
                  <dd>{weights.tell(cut.left_over_g)}</dd>
                </div>
              </>
            )}
          </dl>
        )}
        {work?.planned.gel && (
          <p className={classes.about} data-testid="gel-forecast">
            <Sentence>{work.planned.gel.words}</Sentence>
          </p>
        )}
        {fill && fill.cuts.length > 1 && (
          <ul className={classes.alternatives} aria-label="Other ways to cut it">
            {fill.cuts.slice(1).map((other) => (
              <li key={JSON.stringify(other.label)}>
                <button
                  type="button"
                  onClick={() =>
                    draft.edit((now) =>
                      changeMould(now, index, (use) =>
                        changeCut(use, {
                          bar_mm: other.bar_thickness_mm,
                          ...(use.mould.shape.kind === 'slab' ? { bar_width_mm: other.bar_width_mm } : {}),
                        }),
                      ),
                    )
                  }
                >
                  <Sentence>{other.label}</Sentence>: {weights.tell(other.cured_g)} cured, {weights.tell(other.left_over_g)} over
                </button>
              </li>
            ))}
          </ul>
        )}
      </div>
    </Panel>
  );
}

const ROOM = 14;

function Drawing({ cut, tint }: { cut: CutPlan; tint: string[] }) {
  const shown = useShown();
  const words = `${shown(cut.label)}; a bar is ${[cut.bar_thickness_mm, cut.bar_width_mm, cut.bar_height_mm].map((side) => formatNumber(side, 0)).join(' × ')} mm`;
  return (
    <svg
      className={classes.drawing}
      viewBox={`${-ROOM} ${-ROOM} ${cut.length_mm + 2 * ROOM} ${cut.width_mm + 2 * ROOM + 8}`}
      role="img"
      aria-label={words}
    >
      {cut.pieces.map((piece, i) => (
        <rect
          key={i}
          className={piece.kind === 'bar' ? classes.bar : classes.trim}
          style={piece.kind === 'bar' && tint.length === 1 ? { fill: tint[0] } : undefined}
          x={piece.x_mm}
          y={piece.y_mm}
          width={piece.width_mm}
          height={piece.height_mm}
        />
      ))}
      <rect className={classes.outline} x="0" y="0" width={cut.length_mm} height={cut.width_mm} />
      <text x={cut.length_mm / 2} y={cut.width_mm + ROOM + 3} textAnchor="middle">
        {formatNumber(cut.length_mm, 0)} × {formatNumber(cut.width_mm, 0)} mm
      </text>
    </svg>
  );
}
