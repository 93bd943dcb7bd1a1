import type { ComparisonView } from '../api/types';
import { shortDateTime } from '../design/dates';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import { Scale } from '../design/scales/Scale';
import { Sentence } from '../design/Sentence';
import classes from './Trials.module.css';

const SIGNS = { clear: '✓', probable: '△', not_yet: '○', close: '=' } as const;

/** What a comparison says, now that all is judged, and who was who. */
export function Verdict({ view }: { view: ComparisonView }) {
  const { verdict } = view;
  if (verdict === null) return null;
  return (
    <Panel title="What it says" aside={`${verdict.rounds} rounds${verdict.undecided > 0 ? `, ${verdict.undecided} without a difference` : ''}`}>
      <p className={classes.verdict} data-standing={verdict.standing} role="status" data-testid="verdict">
        <b aria-hidden>{SIGNS[verdict.standing]}</b> <Sentence>{verdict.words}</Sentence>
      </p>
      <ul className={classes.standings}>
        {verdict.bars.map((bar) => (
          <li key={bar.bar}>
            <span>{bar.label}</span>
            <Scale
              low={0}
              high={100}
              height={20}
              line={{ at: 50, tone: 'plain' }}
              uncertainty={{ low: bar.low_percent, high: bar.high_percent }}
              marks={[{ at: bar.percent, shape: 'disc', tone: 'filled' }]}
              role="img"
              aria-label={`Preferred in about ${formatNumber(bar.percent, 0)} of 100, ${formatNumber(bar.low_percent, 0)} to ${formatNumber(bar.high_percent, 0)}`}
            />
            <small>
              {bar.chosen} of {bar.shown}
            </small>
          </li>
        ))}
      </ul>
      <p className="muted">The line is the 95 % range of how often a bar would be preferred beside a middling one of these; an estimate.</p>
      {view.key_shown_at !== null && <p className="muted">Who is who was shown before all was judged, on {shortDateTime(view.key_shown_at)}.</p>}
      <details className={classes.how}>
        <summary>Round by round</summary>
        <ol className={classes.sheets}>
          {view.rounds.map((round, i) => {
            const chosen = choiceOf(view, i);
            return (
              <li key={round.codes.join()}>
                <span>
                  {round.tester}: {round.codes.map((code, at) => `${code} ${view.setup.bars[round.bars[at] ?? 0]?.label ?? ''}`).join(' · ')}: <b>{chosen === undefined ? 'not judged' : (chosen ?? 'no difference')}</b>
                </span>
              </li>
            );
          })}
        </ol>
      </details>
    </Panel>
  );
}

function choiceOf(view: ComparisonView, round: number): string | null | undefined {
  const out = new Set(view.events.flatMap(({ event }) => (event.kind === 'struck' ? [event.seq] : [])));
  const found = [...view.events].reverse().find(({ seq, event }) => event.kind === 'chosen' && event.round === round && !out.has(seq));
  return found?.event.kind === 'chosen' ? found.event.code : undefined;
}
