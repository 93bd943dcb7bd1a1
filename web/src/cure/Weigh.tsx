import { Button } from '@mantine/core';
import { useState } from 'react';

import { answered, api } from '../api/client';
import { useTellFailure } from '../app/showFailure';
import { shortDate } from '../design/dates';
import { Panel } from '../design/Panel';
import { useWeights } from '../design/units';
import { useDevices, useHasScale } from '../make/useDevices';
import { WeightAmount } from './Amount';
import { Asked } from './Asked';
import classes from './Cure.module.css';
import { EMPTY } from './typed';
import { useCuring, useEntry } from './useCure';

const MARKS = ['A', 'B', 'C', 'D'];

/** Weigh the marked bars, one after the other, by the scale or by hand. */
export function Weigh() {
  const { view } = useCuring();
  const weights = useWeights();
  const devices = useDevices();
  const { problem, send, clear } = useEntry();
  const [chosen, setChosen] = useState<string | null>(null);
  const [typed, setTyped] = useState(EMPTY);
  const known = [...new Set(view.state.weighings.map((one) => one.mark))].filter((one) => !(one in view.state.trays));
  const marks = [...known, ...MARKS.filter((mark) => !known.includes(mark))].slice(0, Math.max(4, known.length));
  const today = new Date().toDateString();
  const cutAt = view.state.cut_at;
  const at = (day: number) => new Date(new Date(cutAt ?? view.now).getTime() + day * 86_400_000);
  const isDone = (mark: string) => view.state.weighings.some((one) => one.mark === mark && at(one.day).toDateString() === today);
  // The next that was not weighed today; three are enough.
  const trays = Object.entries(view.state.trays).filter(([, bars]) => bars > 1);
  const mark = chosen ?? marks.find((one, i) => i < Math.max(3, known.length) && !isDone(one)) ?? marks[0] ?? 'A';
  const together = Object.fromEntries(trays)[mark] ?? 1;
  const last = view.state.weighings.filter((one) => one.mark === mark).at(-1);
  const hasScale = useHasScale(devices);
  const scale = devices?.scale;
  const live = scale?.state === 'steady' && scale.weight_g !== null && scale.weight_g > 0 ? scale.weight_g : null;
  const take = async (grams: number | null, source: 'scale' | 'typed', sure = false) => {
    if (grams === null) return;
    if (await send({ kind: 'weighed', mark, weight_g: grams, bars: together, source, sure })) {
      setTyped(EMPTY);
      setChosen(null);
    }
  };
  const entered = typed.value ?? live;
  const source = typed.value === null ? 'scale' : 'typed';
  return (
    <Panel title="Weigh the marked bars" aside={!hasScale ? undefined : scale ? `scale: ${scale.state}` : 'scale: no answer'}>
      <div className={classes.marks} role="radiogroup" aria-label="Marked bar">
        {marks.map((one) => (
          <button key={one} type="button" role="radio" aria-checked={one === mark} className={classes.mark} onClick={() => { setChosen(one); clear(); }} data-testid={`mark-${one}`}>
            {one}
            {isDone(one) && <span aria-label="weighed today"> ✓</span>}
          </button>
        ))}
        {trays.map(([tray, bars]) => (
          <button key={tray} type="button" role="radio" aria-checked={tray === mark} className={classes.mark} onClick={() => { setChosen(tray); clear(); }} data-testid={`mark-${tray}`}>
            {tray} <small>all {bars}</small>
            {isDone(tray) && <span aria-label="weighed today"> ✓</span>}
          </button>
        ))}
      </div>
      {hasScale && (
        <p className={classes.live} data-testid="live-bar">
          {scale?.weight_g == null ? '–' : weights.format(scale.weight_g, 1)}
          <span>{weights.unit}</span>
        </p>
      )}
      <p className="muted">{together > 1 ? `All ${together} bars of tray ${mark} together, without the tray${last ? `; last ${weights.tell(last.weight_g, 1)} each on ${shortDate(at(last.day))}` : ''}.` : last ? `Bar ${mark}: last ${weights.tell(last.weight_g, 1)} on ${shortDate(at(last.day))}` : `Bar ${mark}: not weighed yet. Scratch its letter into it.`}</p>
      <div className={classes.fields}>
        <WeightAmount label={hasScale ? 'or enter it by hand' : 'Weight'} value={typed} onChange={(next) => { setTyped(next); clear(); }} testId="bar-weight" />
      </div>
      <div className={classes.row}>
        <Button size="lg" variant="filled" disabled={entered === null || typed.unread !== undefined} onClick={() => void take(entered, source)} data-testid="take-bar">
          {together > 1 ? `Record ${together} bars` : `Record bar ${mark}`}
        </Button>
      </div>
      <Asked problem={problem} onSure={() => void take(entered, source, true)} onOffer={(grams) => void take(grams, 'typed', true)} />
      {devices?.is_simulated && <Rehearse grams={together * (last?.weight_g ?? view.drying?.start_g ?? 100)} />}
    </Panel>
  );
}

/** The simulated scale: put a bar on it, take it off. */
function Rehearse({ grams }: { grams: number }) {
  const tellFailure = useTellFailure();
  const play = (what: 'pour' | 'clear', weight = 0) => answered(api.POST('/api/devices/scale/play', { body: { what, grams: weight } })).catch(tellFailure);
  return (
    <p className={classes.rehearse}>
      Simulated scale:{' '}
      <button type="button" className={classes.small} onClick={() => void play('clear').then(() => play('pour', Math.round(grams * 9.93) / 10))} data-testid="put-bar">
        put a bar on it
      </button>{' '}
      <button type="button" className={classes.small} onClick={() => void play('clear')}>
        take it off
      </button>
    </p>
  );
}
