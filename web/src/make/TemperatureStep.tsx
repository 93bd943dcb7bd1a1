import { useElementSize } from '@mantine/hooks';
import { useState } from 'react';

import type { Diagnostic } from '../api/types';
import { NumberField } from '../design/NumberField';
import { formatNumber } from '../design/quantity';
import { useTemperature } from '../design/temperature';
import { Sentence } from '../design/Sentence';
import classes from './Make.module.css';
import { useMaking, useReadings } from './MakeContext';
import { saidOf, useShown } from '../design/units';

type Bowl = 'oils' | 'lye';
type Source = 'thermometer' | 'typed';

/** Both bowls: read, logged, and when they will be ready to meet. */
export function TemperatureStep({ isCurrent }: { isCurrent: boolean }) {
  const { run } = useMaking();
  const { cooling } = run;
  return (
    <>
      <div className={classes.bowls}>
        <BowlCard bowl="oils" isCurrent={isCurrent} />
        <BowlCard bowl="lye" isCurrent={isCurrent} />
      </div>
      <Curves />
      <p className={classes.cooling} data-ready={cooling.ready} role="status" data-testid="cooling">
        <Sentence>{cooling.words}</Sentence>
      </p>
      {cooling.warnings.map((warning) => (
        <p key={JSON.stringify(warning)} className={classes.warning}>
          △ <Sentence>{warning}</Sentence>
        </p>
      ))}
    </>
  );
}

/** Cooling faster is a choice that is written down. */
export function IceBath() {
  const { run, send } = useMaking();
  const hasBath = run.state.marks.some((mark) => mark.what === 'ice_bath');
  return (
    <button type="button" className={classes.big} aria-pressed={hasBath} disabled={hasBath} onClick={() => void send({ kind: 'chose', what: 'ice_bath' })}>
      {hasBath ? 'In the ice bath' : 'Use an ice bath'}
    </button>
  );
}

function BowlCard({ bowl, isCurrent }: { bowl: Bowl; isCurrent: boolean }) {
  const { run, send } = useMaking();
  const devices = useReadings();
  const temperature = useTemperature();
  const [typed, setTyped] = useState<{ value: number | null; unread?: string }>({ value: null });
  /** The reading that is asked about, and why. */
  const [doubt, setDoubt] = useState<{ celsius: number; source: Source; problem: Diagnostic | null } | null>(null);
  const problem = doubt?.problem;
  const thermometer = devices?.thermometer;
  const live = thermometer?.celsius[bowl];
  const last = run.cooling[bowl];
  const log = async (celsius: number, source: Source, sure = false) => {
    const sent = await send({ kind: 'temperature', bowl, celsius, read_in: temperature.letter, source, sure });
    setDoubt(sent.ok ? null : { celsius, source, problem: sent.problem });
    if (sent.ok) setTyped({ value: null });
  };
  const canLogTyped = typed.value !== null && typed.unread === undefined;
  const logTyped = () => {
    if (typed.value !== null && canLogTyped) void log(typed.value, 'typed');
  };
  return (
    <section className={classes.bowl} data-bowl={bowl} aria-label={bowl === 'oils' ? 'Oils' : 'Lye'}>
      <h2>{bowl === 'oils' ? 'Oils' : 'Lye'}</h2>
      {thermometer !== null && (
        <p className={classes.degrees} data-testid={`live-${bowl}`}>
          {live === undefined ? '–' : temperature.format(live, 1)}
          <span>{live === undefined ? 'no answer from the thermometer' : temperature.unit}</span>
        </p>
      )}
      <p className="muted">
        {last.last_c === null || last.last_c === undefined
          ? 'nothing logged yet'
          : `logged ${temperature.format(last.last_c, 1)} ${temperature.unit}, minute ${formatNumber(last.last_minute ?? 0, 0)}`}
      </p>
      {isCurrent && (
        <div className={classes.bowlActions}>
          {thermometer !== null && (
            <button type="button" className={classes.big} disabled={live === undefined} onClick={() => live !== undefined && void log(live, 'thermometer')} data-testid={`log-${bowl}`}>
              Log this
            </button>
          )}
          <div className={classes.typedDegrees}>
            <NumberField
              showLabel
              label={thermometer === null ? 'Temperature' : 'or enter it by hand'}
              value={typed.value}
              unit={temperature.unit}
              step={1}
              format={(celsius) => formatNumber(temperature.fromCelsius(celsius), 1, 0)}
              parse={temperature.parse}
              unread={typed.unread}
              onUnread={(text) => setTyped((now) => ({ ...now, unread: text ?? undefined }))}
              onChange={(value) => setTyped({ value })}
              onKeyDown={(event) => {
                if (event.key === 'Enter') logTyped();
              }}
              testId={`type-${bowl}`}
            />
            <button type="button" className={classes.big} disabled={!canLogTyped} onClick={logTyped} data-testid={`log-typed-${bowl}`}>
              Log it
            </button>
          </div>
        </div>
      )}
      {problem && (
        <div className={classes.problem} role="alert">
          <Sentence>{saidOf(problem)}</Sentence>
          <div className={classes.actions}>
            {problem.offers.map((offer) => (
              <button key={offer.value} type="button" className={classes.big} onClick={() => void log(offer.value, 'typed')}>
                It is <Sentence>{offer.label}</Sentence>
              </button>
            ))}
            {problem.is_doubt && doubt && (
              <button type="button" className={classes.big} onClick={() => void log(doubt.celsius, doubt.source, true)}>
                It is right
              </button>
            )}
          </div>
        </div>
      )}
    </section>
  );
}

const HEIGHT = 150;
const LEFT = 34;
const BOTTOM = 20;

/** Indices so far and what is to be expected, with the window they must meet in. */
function Curves() {
  const { run } = useMaking();
  const shown = useShown();
  const temperature = useTemperature();
  const { ref, width } = useElementSize();
  const { cooling, prepared, minute, state } = run;
  const started = new Date(state.started_at ?? run.now).getTime();
  const points = (bowl: Bowl) =>
    state.readings.filter((one) => one.bowl === bowl).map((one) => ({ minute: (new Date(one.at).getTime() - started) / 60_000, celsius: one.celsius }));
  const all = [...points('oils'), ...points('lye'), ...cooling.oils.curve, ...cooling.lye.curve];
  if (all.length === 0) return null;
  const first = Math.min(...all.map((one) => one.minute));
  const last = Math.min(Math.max(...all.map((one) => one.minute), minute + 5), first + 180);
  const high = Math.max(prepared.planned.window.high_c + 8, ...all.map((one) => one.celsius)) + 3;
  const low = Math.min(prepared.planned.window.low_c - 6, ...all.map((one) => one.celsius));
  const x = (at: number) => LEFT + ((at - first) * (Math.max(width, 200) - LEFT - 10)) / Math.max(last - first, 1);
  const y = (celsius: number) => HEIGHT - BOTTOM - ((celsius - low) * (HEIGHT - BOTTOM - 6)) / (high - low);
  const path = (bowl: Bowl) => cooling[bowl].curve.filter((one) => one.minute <= last).map((one, i) => `${i === 0 ? 'M' : 'L'}${x(one.minute)} ${y(one.celsius)}`).join(' ');
  const window = prepared.planned.window;
  // The name of the cooler bowl stands below its line, so that both can be read.
  const lower = (cooling.oils.last_c ?? 0) <= (cooling.lye.last_c ?? 0) ? 'oils' : 'lye';
  return (
    <div ref={ref} className={classes.curves}>
      <svg viewBox={`0 0 ${Math.max(width, 200)} ${HEIGHT}`} role="img" aria-label={`Cooling of oils and lye. ${shown(cooling.words)}`}>
        <rect className={classes.window} x={LEFT} width={Math.max(width, 200) - LEFT - 10} y={y(window.high_c)} height={y(window.low_c) - y(window.high_c)} />
        {[window.low_c, window.high_c].map((edge, i) => (
          <text key={edge} x={LEFT - 5} y={y(edge) + (i === 0 ? 11 : -2)} textAnchor="end">
            {temperature.format(edge)}
          </text>
        ))}
        <line className={classes.nowLine} x1={x(minute)} x2={x(minute)} y1="4" y2={HEIGHT - BOTTOM} />
        <text x={x(minute)} y={HEIGHT - 5} textAnchor="middle">
          now
        </text>
        {(['oils', 'lye'] as const).map((bowl) => (
          <g key={bowl} data-bowl={bowl}>
            <path className={classes.curve} d={path(bowl)} />
            {points(bowl).map((one) => (
              <circle key={`${one.minute}-${one.celsius}`} className={classes.point} cx={x(one.minute)} cy={y(one.celsius)} r="4" />
            ))}
            {points(bowl).slice(-1).map((one) => (
              <text key="name" x={x(one.minute) + 8} y={y(one.celsius) + (bowl === lower ? 14 : -6)}>
                {bowl}
              </text>
            ))}
          </g>
        ))}
        {cooling.both_minute !== null && cooling.both_minute !== undefined && cooling.both_minute <= last && (
          <line className={classes.meet} x1={x(cooling.both_minute)} x2={x(cooling.both_minute)} y1="4" y2={HEIGHT - BOTTOM} />
        )}
      </svg>
    </div>
  );
}
