import { useOils } from '../api/queries';
import type { Formula, FormulaSummary } from '../api/types';
import { HATCH, toneOf } from '../design/tones';

const WIDTH = 100;
const HEIGHT = 56;
const OUTLINE = 'M1 10 C 20 2, 36 12, 54 7 S 88 2, 99 8 V 49 q 0 6 -6 6 H 7 q -6 0 -6 -6 Z';

/** The loaf of a formula, small: its oils as strata. */
export function MiniLoaf({ id, strata }: Pick<FormulaSummary, 'id' | 'strata'>) {
  const tops = strata.map((_, i) => strata.slice(0, i).reduce((sum, stratum) => sum + stratum.share_percent, 0));
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} width="104" aria-hidden>
      <clipPath id={`mini-${id}`}>
        <path d={OUTLINE} />
      </clipPath>
      <g clipPath={`url(#mini-${id})`}>
        <rect width={WIDTH} height={HEIGHT} fill="var(--field)" />
        {strata.map((stratum, i) => {
          const box = {
            x: 0,
            y: 4 + ((tops[i] ?? 0) * (HEIGHT - 5)) / 100 - (i === 0 ? 4 : 0),
            width: WIDTH,
            height: (stratum.share_percent * (HEIGHT - 5)) / 100 + (i === 0 ? 5 : 1),
          };
          return (
            <g key={`${stratum.oil}-${i}`}>
              <rect {...box} fill={toneOf(stratum.group)} />
              {stratum.hard && <rect {...box} fill={HATCH} />}
              {i > 0 && <line x1="0" x2={WIDTH} y1={box.y} y2={box.y} stroke="var(--tone-line)" strokeWidth="0.6" />}
            </g>
          );
        })}
      </g>
      <path d={OUTLINE} fill="none" stroke="var(--ink)" strokeWidth="1.4" />
    </svg>
  );
}

/** The loaf of a formula that is not kept yet, of oils of the catalogue. */
export function MiniBlend({ id, formula }: { id: string; formula: Formula }) {
  const oils = useOils();
  const strata = formula.blend.lines.flatMap((line) => {
    const oil = oils.find((one) => one.id === line.oil);
    return oil ? [{ oil: oil.id, name: oil.name, share_percent: line.value ?? 0, hard: oil.hard, group: oil.group }] : [];
  });
  return <MiniLoaf id={id} strata={strata} />;
}
