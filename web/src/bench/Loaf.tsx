import { useDroppable } from '@dnd-kit/core';
import { useRef, type KeyboardEvent } from 'react';

import type { Formula } from '../api/types';
import { Panel } from '../design/Panel';
import { formatNumber, formatShare } from '../design/quantity';
import { HATCH, toneOf } from '../design/tones';
import { useSlide } from '../design/useSlide';
import { useBench } from './BenchContext';
import { drawnShare, SHARE_STEP, seamNeighbours, trade, type Line } from './edits';
import classes from './Loaf.module.css';

const WIDTH = 360;
const TOP = 22;
const BODY = 262;
const HEIGHT = TOP + BODY + 4;
const LEFT = 6;
const RIGHT = WIDTH - 6;
const CREST = `M${LEFT} ${TOP + 10} C ${LEFT + 60} ${TOP - 14}, ${LEFT + 120} ${TOP + 10}, ${LEFT + 190} ${TOP - 2} S ${RIGHT - 50} ${TOP - 22}, ${RIGHT} ${TOP + 6}`;
const OUTLINE = `${CREST} V ${TOP + BODY - 14} q 0 14 -14 14 H ${LEFT + 14} q -14 0 -14 -14 Z`;
const HANDLE_GAP = 24;

interface Stratum {
  line: Line;
  index: number;
  top: number;
  height: number;
  /** Of what has been entered so far, %. */
  share: number;
  /** As entered when shares lead, even while they do not sum to 100. */
  label: string;
}

function strataOf(formula: Formula): Stratum[] {
  let top = TOP;
  return formula.blend.lines.map((line, index) => {
    const share = drawnShare(formula.blend, line);
    const label = `${formatShare(line.by === 'percent_of_oils' ? (line.value ?? 0) : share)} %`;
    const stratum = { line, index, top, height: (share * BODY) / 100, share, label };
    top += stratum.height;
    return stratum;
  });
}

/** The blend as the cut face of a loaf: one stratum an oil. Drag a seam, or use the arrow keys on it, to trade shares. */
export function Loaf() {
  const { draft, oils } = useBench();
  const svg = useRef<SVGSVGElement>(null);
  const strata = strataOf(draft.formula);
  const drawn = strata.filter((stratum) => stratum.height > 0);

  /** Units of the drawing for a pixel of the screen. */
  const perPixel = () => HEIGHT / (svg.current?.getBoundingClientRect().height || HEIGHT);

  return (
    <Panel title="The loaf"
      term="loaf" aside="drag a seam · arrows move 0.5 %">
      <svg
        ref={svg}
        className={classes.loaf}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="group"
        aria-label={describe(strata, oils)}
      >
        <defs>
          <clipPath id="loaf-outline">
            <path d={OUTLINE} />
          </clipPath>
        </defs>
        <g clipPath="url(#loaf-outline)">
          <rect x={LEFT} y="0" width={WIDTH} height={HEIGHT} fill="var(--field)" />
          {drawn.map((stratum, position) => {
            const oil = oils.get(stratum.line.oil);
            const isFirst = position === 0;
            const box = {
              x: LEFT,
              y: isFirst ? 0 : stratum.top,
              width: RIGHT - LEFT,
              height: stratum.height + (isFirst ? stratum.top : 0) + 1,
            };
            return (
              <g key={`${stratum.line.oil}-${stratum.index}`}>
                <title>{`${oil?.name ?? stratum.line.oil}: ${stratum.label}`}</title>
                <rect {...box} fill={toneOf(oil?.group ?? 'short')} />
                {oil?.hard && <rect {...box} fill={HATCH} />}
              </g>
            );
          })}
        </g>
        <path d={OUTLINE} fill="none" stroke="var(--ink)" strokeWidth="1.6" />
        {drawn.length === 0 && (
          <>
            <Place index={-1} top={0} height={HEIGHT} />
            <text className={classes.empty} x={WIDTH / 2} y={TOP + BODY / 2}>
              Oils appear here as strata, as thick as their share.
            </text>
          </>
        )}
        {drawn.map(({ line, index, top, height }, position) => (
          <Place key={`${line.oil}-${index}`} index={index} top={position === 0 ? 0 : top} height={position === 0 ? top + height : height} />
        ))}
        {drawn.map((stratum, position) => (
          <StratumLabel
            key={`${stratum.line.oil}-${stratum.index}`}
            stratum={stratum}
            name={oils.get(stratum.line.oil)?.name ?? stratum.line.oil}
            offset={position === 0 ? 3 : 0}
          />
        ))}
        {drawn.slice(0, -1).map((stratum, position) => (
          <Seam
            key={`${stratum.line.oil}-${stratum.index}`}
            stratum={stratum}
            isCrowded={position > 0 && stratum.height < HANDLE_GAP && position % 2 === 1}
            perPixel={perPixel}
          />
        ))}
      </svg>
    </Panel>
  );
}

function describe(strata: Stratum[], oils: ReturnType<typeof useBench>['oils']): string {
  const components = strata.map(({ line, label }) => `${oils.get(line.oil)?.name ?? line.oil} ${label}`);
  return components.length > 0 ? `The blend as a loaf, from the top: ${components.join(', ')}` : 'The blend as a loaf: empty';
}

function StratumLabel({ stratum, name, offset }: { stratum: Stratum; name: string; offset: number }) {
  if (stratum.height < 11) return null;
  const small = stratum.height < 20 ? classes.small : '';
  const y = stratum.top + stratum.height / 2 + (small ? 4 : 5) + offset;
  return (
    <g pointerEvents="none">
      <text className={`${classes.name} ${small}`} x={LEFT + 14} y={y}>
        {name}
      </text>
      <text className={`${classes.share} ${small}`} x={RIGHT - 12} y={y}>
        {stratum.label}
      </text>
    </g>
  );
}

/** Where an oil from the list can be put down: under the stratum at `index`. */
function Place({ index, top, height }: { index: number; top: number; height: number }) {
  const { setNodeRef, isOver } = useDroppable({ id: index });
  // dnd-kit names its elements as HTML; it asks only for their box.
  const ref = setNodeRef as unknown as (element: SVGRectElement | null) => void;
  return (
    <>
      <rect ref={ref} x={LEFT} width={RIGHT - LEFT} y={top} height={height} fill="none" />
      {isOver && index >= 0 && <line className={classes.drop} x1={LEFT} x2={RIGHT} y1={top + height} y2={top + height} />}
    </>
  );
}

interface SeamProps {
  stratum: Stratum;
  /** Set aside so that handles of thin strata do not cover one another. */
  isCrowded: boolean;
  perPixel: () => number;
}

function Seam({ stratum, isCrowded, perPixel }: SeamProps) {
  const { draft, oils } = useBench();
  const taken = useRef<Formula>(draft.formula);
  const lines = draft.formula.blend.lines;
  const neighbours = seamNeighbours(lines, stratum.index);
  const name = (index: number) => oils.get(lines[index]?.oil ?? '')?.name ?? '';
  const y = stratum.top + stratum.height;
  const x = WIDTH / 2 + (isCrowded ? 44 : 0);
  const mergeKey = `seam-${stratum.index}`;

  const move = (steps: number) => draft.edit((formula) => trade(formula, stratum.index, steps * SHARE_STEP), mergeKey);
  const slide = useSlide({
    isDisabled: neighbours === null,
    onStart() {
      draft.closeStep();
      taken.current = draft.formula;
    },
    onDrag(_, y) {
      const points = (y * perPixel() * 100) / BODY;
      const snapped = Math.round(points / SHARE_STEP) * SHARE_STEP;
      draft.edit(() => trade(taken.current, stratum.index, snapped), mergeKey);
    },
    onStep: (x, y, isLarge) => move((x + y) * (isLarge ? 10 : 1)),
    onEnd: draft.closeStep,
  });
  const onKeyDown = (event: KeyboardEvent<SVGGElement>) => {
    if (event.ctrlKey || event.metaKey) return;
    const page = { PageDown: 10, PageUp: -10 }[event.key];
    if (page === undefined) {
      slide.onKeyDown?.(event);
      return;
    }
    event.preventDefault();
    move(page);
  };

  return (
    <g
      className={classes.seam}
      role="slider"
      tabIndex={0}
      aria-orientation="vertical"
      aria-disabled={neighbours === null}
      aria-label={
        neighbours
          ? `Seam between ${name(neighbours[0])} and ${name(neighbours[1])}`
          : `Seam under ${name(stratum.index)}: both sides are locked`
      }
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(stratum.share * 10) / 10}
      aria-valuetext={`${name(stratum.index)} ${formatNumber(stratum.share, 1)} percent`}
      data-testid={`seam-${stratum.index}`}
      {...slide}
      onPointerDown={(event) => {
        event.currentTarget.focus();
        slide.onPointerDown?.(event);
      }}
      onKeyDown={onKeyDown}
    >
      <line x1={LEFT} x2={RIGHT} y1={y} y2={y} />
      <path d={`M${LEFT} ${y - 6} H${RIGHT} V${y + 6} H${LEFT} Z`} fill="transparent" />
      <rect x={x - 15} y={y - 5} width="30" height="10" rx="5" />
    </g>
  );
}
