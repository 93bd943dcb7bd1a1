import { VisuallyHidden } from '@mantine/core';
import { useHotkeys, useLocalStorage } from '@mantine/hooks';
import { useEffect, useEffectEvent, useRef, useState, type CSSProperties } from 'react';

import type { Diagnostic, Step, Text, WeighingNow } from '../api/types';
import { NumberField } from '../design/NumberField';
import { useSettings } from '../app/settings';
import { Sentence } from '../design/Sentence';
import { saidOf, useWeights } from '../design/units';
import { Corrections } from './Corrections';
import { LotStrip } from './LotStrip';
import classes from './Make.module.css';
import { useWork, useReadings } from './MakeContext';
import { signal } from './signals';
import { useTabletSettings } from './tablet';
import { useHasScale } from './useDevices';
import type { TareAnswer } from './useRun';
import { scaleStateOf, standingOf, type ScaleState, type Standing } from './weighing';

const LASTING_MS = 700;
/** A right weight that has been steady for this long is taken by itself. */
const TAKEN_AFTER_MS = 1300;
/** Digits and points of a weight up to which what it should come to stands beside it. */
const MOST_IN_A_ROW = 6;

/** One weighing: looked back at, or the one that the work is at. */
export function WeighStep({ step, isCurrent }: { step: Step; isCurrent: boolean }) {
  const { run } = useWork();
  const weights = useWeights();
  if (!step.weigh) return null;
  if (isCurrent && run.weighing?.item === step.weigh.item) return <Weighing step={step} now={run.weighing} />;
  const grams = run.state.captured_g[step.weigh.item];
  return grams === undefined ? null : (
    <p className={classes.reading} data-off>
      {weights.format(grams, step.weigh.decimals)}
      <span>{weights.unit}</span>
    </p>
  );
}

/** The live weight against its goal, and the corrections when it is off. */
function Weighing({ step, now }: { step: Step; now: WeighingNow }) {
  const { run, isBatch, send, tare: tareFor } = useWork();
  const devices = useReadings();
  const { letterShortcuts } = useSettings();
  const weights = useWeights();
  const [prefersTyping, setPrefersTyping] = useLocalStorage({ key: 'sapolin.make-types', defaultValue: false, getInitialValueInEffect: false });
  const hasScale = useHasScale(devices);
  const isTyping = prefersTyping || !hasScale;
  const [typed, setTyped] = useState<{ value: number | null; unread?: string }>({ value: null });
  const [adds, setAdds] = useState(false);
  const [problem, setProblem] = useState<Diagnostic | null>(null);
  /** The weight that the maker goes on from, by pouring on or taking out. */
  const [goneOnFrom, setGoneOnFrom] = useState<number | null>(null);
  const decimals = step.weigh?.decimals ?? 1;
  const tolerance = step.weigh?.tolerance_g ?? 0;
  const isLye = step.weigh?.role === 'lye';
  const captured = run.state.captured_g[now.item] ?? 0;
  const isSettled = run.state.settled.includes(now.item);
  const scale = devices?.scale ?? undefined;
  const seen = scaleStateOf(scale, now);
  // Just after a tare, what the scale showed before may still be on its way here.
  const isLost = useLasting(seen === 'lost', LASTING_MS);
  const state = seen === 'lost' && !isLost ? 'settling' : seen;
  const live = state === 'lost' ? null : (scale?.weight_g ?? null);
  const shown = isTyping ? typed.value : live;
  const goal = !isTyping ? now.to_show_g : adds ? Math.max(now.target_g - captured, 0) : now.target_g;
  const goalText = weights.format(goal, decimals);
  const standing = shown !== null && (isTyping || state !== 'untared') ? standingOf(shown, goal, tolerance) : 'under';
  const isAsAsked = (grams: number) => isTyping && !isLye && grams === goal;
  const canTake = isTyping ? typed.value !== null && typed.unread === undefined : state === 'ready' && (live ?? 0) > 0;
  const isBetweenLoads = now.loads > 1 && now.in_bowl_g > 0 && now.in_bowl_g < now.target_g - tolerance;
  const isOff = captured > 0 && !isSettled && !isBetweenLoads && goneOnFrom !== captured && state !== 'lost';

  const done = async () => {
    const sent = await send({ kind: 'step_done', step: step.id, confirmed: [] });
    if (!sent.ok) setProblem(sent.problem);
  };
  const isTaking = useRef(false);
  const take = async (grams: number | null, sure = false) => {
    if (grams === null || !(canTake || isAsAsked(grams)) || isTaking.current) return;
    setProblem(null);
    isTaking.current = true;
    // A second tap on the same weight is the first one still.
    const sent = await send({
      kind: 'captured',
      item: now.item,
      weight_g: grams,
      source: isTyping ? 'typed' : 'scale',
      tared: true,
      tare: isTyping ? '' : (now.tare ?? ''),
      adds: isTyping && adds,
      sure,
    }).finally(() => {
      isTaking.current = false;
    });
    if (!sent.ok) {
      setProblem(sent.problem);
      return;
    }
    setAdds(false);
    setTyped({ value: null });
    setGoneOnFrom(null);
    if (sent.run.state.settled.includes(now.item)) await done();
  };
  const tare = async (answer: TareAnswer = {}) => {
    setProblem(null);
    const sent = await tareFor(now.item, answer);
    if (!sent.ok) setProblem(sent.problem);
  };
  useHotkeys(letterShortcuts && hasScale ? [['T', () => void tare()]] : []);
  const { sounds, takesItself } = useTabletSettings();
  const isPouring = !isTyping && (state === 'ready' || state === 'settling') && (live ?? 0) > 0;
  useEffect(() => {
    if (sounds && isPouring && standing !== 'under') signal(standing);
  }, [sounds, isPouring, standing]);
  // One tap an ingredient: tare when the bowl is set. Lye is always taken by hand.
  const isTakenSoon = takesItself && !isLye && !isTyping && canTake && standing === 'right' && problem === null;
  const takeIt = useEffectEvent(() => void take(live));
  useEffect(() => {
    if (!isTakenSoon) return undefined;
    const timer = setTimeout(() => takeIt(), TAKEN_AFTER_MS);
    return () => clearTimeout(timer);
  }, [isTakenSoon]);

  // Weighed before, and still right after what was decided since: nothing more is poured.
  if (isSettled && now.in_bowl_g > 0) {
    return (
      <>
        <p className={classes.reading} data-off>
          {weights.format(captured, decimals)}
          <span>{weights.unit}</span>
        </p>
        <p className={classes.goal}>
          is in the bowl · <b data-tone="right">right</b>
        </p>
        {problem && (
          <p className={classes.problem} role="alert">
            <Sentence>{saidOf(problem)}</Sentence>
          </p>
        )}
        <div className={classes.actions}>
          <button type="button" className={classes.primary} onClick={() => void done()} data-testid="weighed-already">
            Go on
          </button>
        </div>
      </>
    );
  }

  return (
    <>
      {isBatch && <LotStrip key={now.item} now={now} />}
      <div className={classes.readings} style={{ '--digits': goalText.length } as CSSProperties} data-stacked={goalText.length > MOST_IN_A_ROW}>
        <p className={classes.reading} data-standing={standing} data-scale={scale?.state} data-off={isOff} data-testid="live-weight" aria-live="off">
          {shown === null ? '– – –' : weights.format(shown, decimals)}
          <span>{weights.unit}</span>
        </p>
        {(isTyping || state !== 'lost') && (
          <p className={classes.reading} data-goal data-off={isOff} data-testid="goal-weight" aria-hidden>
            <small>of</small>
            {goalText}
          </p>
        )}
      </div>
      <p className={classes.goal} data-testid="goal">
        {(isTyping || state !== 'lost') && (
          // The large numbers show it already.
          <VisuallyHidden component="span">
            {isTyping ? 'typed, ' : ''}of <b>{goalText} {weights.unit}</b>
            {' · '}
          </VisuallyHidden>
        )}
        {isTyping ? <Off {...{ shown, standing, goal, decimals }} /> : <Words {...{ state, shown, standing, goal, decimals }} />}
      </p>
      <Gauge shown={shown ?? 0} goal={goal} tolerance={tolerance} standing={standing} />
      <p className={classes.tolerance}>
        ± {weights.format(tolerance, decimals)} {weights.unit} is right
        {now.loads > 1 && <b> · load {now.load} of {now.loads}</b>}
      </p>
      {now.beside_g > 0 && !isTyping && state !== 'lost' && (
        <p className={classes.sum} data-testid="in-bowl">
          <b>{weights.format(now.beside_g, decimals)}</b> in the bowl + <b>{weights.format(now.to_show_g, decimals)}</b>
          {now.loads === now.load && ` = ${weights.format(now.beside_g + now.to_show_g, decimals)} ${weights.unit}`}
        </p>
      )}
      {state === 'lost' && !isTyping && (
        <div className={classes.problem} role="alert" data-testid="zero-lost">
          The scale has lost its zero: it no longer knows what is in the bowl. Empty the bowl, put it back empty, tare, and weigh
          all of it again; or type the true weight.
          <div className={classes.actions}>
            <button type="button" className={classes.big} onClick={() => void tare({ emptied: true })} data-testid="emptied">
              The bowl is empty: tare
            </button>
          </div>
        </div>
      )}
      {isOff && isBatch && <Corrections item={now.item} onSettled={done} onGoOn={() => setGoneOnFrom(captured)} />}
      {isOff && !isBatch && <Keep item={now.item} onKept={done} onGoOn={() => setGoneOnFrom(captured)} />}
      {goneOnFrom === captured && captured > now.target_g + tolerance && (
        <p className={classes.text}>Take it out until the weight is right, then take the weight again.</p>
      )}
      {isTyping && (
        <div className={classes.typing}>
          <NumberField
            showLabel
            label={`Weight of ${step.weigh?.name ?? ''}`}
            value={typed.value}
            unit={weights.unit}
            step={1}
            format={(grams) => weights.format(grams, decimals)}
            parse={weights.parse}
            unread={typed.unread}
            onUnread={(text) => setTyped((now) => ({ ...now, unread: text ?? undefined }))}
            onChange={(value) => setTyped((now) => ({ ...now, value }))}
            onKeyDown={(event) => {
              if (event.key === 'Enter' && !isLye) void take(typed.value);
            }}
            inputRef={(input) => {
              if (input && document.activeElement === document.body) input.focus();
            }}
            testId="typed-weight"
          />
          {captured > 0 && (
            <div className={classes.actions} role="group" aria-label="What the typed weight is">
              <button type="button" className={classes.big} aria-pressed={!adds} onClick={() => setAdds(false)}>
                all that is in the bowl
              </button>
              <button type="button" className={classes.big} aria-pressed={adds} onClick={() => setAdds(true)} data-testid="typed-adds">
                added to the {weights.tell(captured, decimals)}
              </button>
            </div>
          )}
        </div>
      )}
      {problem && (
        <div className={classes.problem} role="alert" data-testid="weigh-problem">
          <Sentence>{saidOf(problem)}</Sentence>
          <Answers problem={problem} onTake={(grams) => void take(grams ?? shown, true)} onTare={(answer) => void tare(answer)} />
        </div>
      )}
      <div className={`${classes.actions} ${classes.main_actions}`}>
        <button type="button" className={classes.primary} disabled={!canTake} onClick={() => void take(shown)} data-testid="take-weight">
          {isTakenSoon ? 'Right: hold still, it is taken' : 'Take this weight'}
        </button>
        {isTyping && !isLye && typed.value === null && typed.unread === undefined && goal > 0 && (
          <button type="button" className={classes.primary} onClick={() => void take(goal)} data-testid="as-asked">
            {goalText} {weights.unit}, as asked
          </button>
        )}
        {hasScale && state !== 'lost' && (
          <button type="button" className={now.needs_tare && !isTyping ? classes.primary : classes.big} onClick={() => void tare()} disabled={state === 'unplugged' || state === 'silent'} data-testid="tare">
            Tare
          </button>
        )}
        {hasScale && (
          <button type="button" className={classes.big} aria-pressed={isTyping} onClick={() => setPrefersTyping((now) => !now)} data-testid="type-weight">
            {isTyping ? 'Use the scale' : 'Enter by hand'}
          </button>
        )}
      </div>
    </>
  );
}

/** A weight that is off where nothing else hangs on it: kept as it is, or weighed further. */
function Keep({ item, onKept, onGoOn }: { item: string; onKept: () => Promise<void>; onGoOn: () => void }) {
  const { send } = useWork();
  const keep = async () => {
    const sent = await send({ kind: 'correction_taken', item, correction: 'accept', targets_g: {}, words: [] });
    if (sent.ok) await onKept();
  };
  return (
    <div className={classes.actions}>
      <button type="button" className={classes.big} onClick={() => void keep()} data-testid="keep-as-it-is">
        Keep it as it is
      </button>
      <button type="button" className={classes.big} onClick={onGoOn} data-testid="weigh-on">
        Weigh on
      </button>
    </div>
  );
}

/** Whether something has been so for a while. */
function useLasting(isSo: boolean, ms: number): boolean {
  const [lasts, setLasts] = useState(false);
  useEffect(() => {
    if (!isSo) return;
    const timer = setTimeout(() => setLasts(true), ms);
    return () => {
      clearTimeout(timer);
      setLasts(false);
    };
  }, [isSo, ms]);
  return isSo && lasts;
}

interface AnswersProps {
  problem: Diagnostic;
  onTake: (grams: number | null) => void;
  onTare: (answer: TareAnswer) => void;
}

/** What can be said to a question about a weight or a tare. */
function Answers({ problem, onTake, onTare }: AnswersProps) {
  const answers: [Text, () => void][] = [];
  for (const offer of problem.offers) answers.push([['It is ', ...offer.label], () => onTake(offer.value)]);
  if (problem.code === 'material_on_scale') answers.push([['It is only the container: tare'], () => onTare({ sure: true })]);
  else if (problem.is_doubt) answers.push([['It is right'], () => onTake(null)]);
  if (problem.code === 'zero_lost') answers.push([['The bowl is empty: tare'], () => onTare({ emptied: true })]);
  if (answers.length === 0) return null;
  return (
    <div className={classes.actions}>
      {answers.map(([words, act]) => (
        <button key={JSON.stringify(words)} type="button" className={classes.big} onClick={act}>
          <Sentence>{words}</Sentence>
        </button>
      ))}
    </div>
  );
}

interface OffProps {
  shown: number | null;
  standing: Standing;
  goal: number;
  decimals: number;
}

/** What the reading means, in a few words that can be read from afar. */
function Words({ state, ...off }: OffProps & { state: ScaleState }) {
  if (state === 'silent') return <b data-tone="watch">the scale does not answer: type it</b>;
  if (state === 'unplugged') return <b data-tone="watch">the scale is unplugged: plug it in, or type it</b>;
  if (state === 'overload') return <b data-tone="watch">too heavy for the scale: take it off</b>;
  if (state === 'lost') return <b data-tone="watch">the scale has lost its zero</b>;
  if (state === 'untared') return <b data-tone="watch">put the container on it, then tare</b>;
  if (state === 'below') return <b data-tone="watch">below zero: is something missing from the scale?</b>;
  if (off.standing === 'right') return <b data-tone="right">right{state === 'settling' ? ', settling' : ''}</b>;
  return <Off {...off} />;
}

function Off({ shown, standing, goal, decimals }: OffProps) {
  const weights = useWeights();
  if (shown === null) return <b>pour</b>;
  const off = `${weights.format(Math.abs(shown - goal), decimals)} ${weights.unit}`;
  if (standing === 'right') return <b data-tone="right">right</b>;
  if (standing === 'over') return <b data-tone="watch">{off} over</b>;
  return standing === 'near' ? <b data-tone="near">{off} to go, slowly</b> : <b>{off} to go</b>;
}

function Gauge({ shown, goal, tolerance, standing }: { shown: number; goal: number; tolerance: number; standing: string }) {
  const full = Math.max(goal, tolerance) * 1.15;
  const percentAt = (grams: number) => (100 * Math.min(Math.max(grams, 0), full)) / full;
  return (
    <div className={classes.gauge} data-standing={standing} data-testid="gauge" aria-hidden>
      <div className={classes.fill} style={{ transform: `translateX(${percentAt(shown) - 100}%)` }} />
      <div className={classes.zone} style={{ left: `${percentAt(goal - tolerance)}%`, width: `max(6px, ${(200 * tolerance) / full}%)` }} />
    </div>
  );
}
