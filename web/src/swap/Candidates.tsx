import { useState } from 'react';

import { useReference } from '../api/queries';
import type { SwapAnswer, SwapCandidate } from '../api/types';
import choice from '../design/choice.module.css';
import { Panel } from '../design/Panel';
import { formatChange, formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import classes from './Swap.module.css';

interface CandidatesProps {
  answer: SwapAnswer;
  chosen: number;
  isStale: boolean;
  onChoose: (index: number) => void;
}

/** Replacements, the best first; arrow keys go through them. */
export function Candidates({ answer, chosen, isStale, onChoose }: CandidatesProps) {
  const [isContrastOpen, setContrastOpen] = useState(false);
  const { candidates, equal_sap: contrast } = answer;
  const compared = `${formatNumber(answer.compared, 0)} sets compared${answer.proven ? ', proven optimal' : ', best so far'}`;
  return (
    <Panel title="Replacements" aside={compared}>
      <div className={choice.scroll}>
      <div
        className={`${choice.group} ${isStale ? 'stale' : ''}`}
        role="radiogroup"
        aria-label="Replacements"
        data-testid="candidates"
      >
        {candidates.length === 0 && (
          <p className={classes.none}>
            No allowed replacement makes a bar that a maker would pour. Let other oils move too, allow more new oils, or take out less.
          </p>
        )}
        {candidates.map((candidate, index) => (
          <Candidate
            key={candidate.incoming.map((oil) => oil.oil).join('+') + candidate.moved.map((oil) => oil.oil).join('+')}
            candidate={candidate}
            before={answer}
            rank={index + 1}
            isChosen={index === chosen}
            onChoose={() => onChoose(index)}
          />
        ))}
      </div>
      {answer.why_first.length > 0 && <p className={classes.contrast} data-testid="why-first"><Sentence>{answer.why_first}</Sentence></p>}
      {answer.refused.length > 0 && (
        <details className={classes.contrast} data-testid="refused">
          <summary>Not offered, though near</summary>
          <ul>
            {answer.refused.map((one) => (
              <li key={one.names.join('+')}>
                <b>{one.names.join(' and ')}</b>, {formatNumber(one.match_percent, 0)} % match:{' '}
                {one.diagnostics.length === 0 ? 'it matches too little.' : one.diagnostics.map((said) => <span key={said.code + (said.quantity ?? '')}><Sentence>{said.message}</Sentence> </span>)}
              </li>
            ))}
          </ul>
        </details>
      )}
      {contrast && (
        <p className={classes.contrast}>
          <b>By equal lye need</b> the nearest is {contrast.name.toLowerCase()}.{' '}
          <button
            type="button"
            className={classes.ask}
            onClick={() => setContrastOpen(!isContrastOpen)}
            aria-expanded={isContrastOpen}
          >
            {isContrastOpen ? 'Close' : 'Show why that misleads'}
          </button>
        </p>
      )}
      {contrast && isContrastOpen && <Contrast answer={answer} contrast={contrast} />}
      </div>
    </Panel>
  );
}

interface CandidateProps {
  candidate: SwapCandidate;
  before: SwapAnswer;
  rank: number;
  isChosen: boolean;
  onChoose: () => void;
}

function Candidate({ candidate, before, rank, isChosen, onChoose }: CandidateProps) {
  const share = (value: number) => formatNumber(value, 1, 0);
  const names = [
    ...candidate.incoming.map((oil) => `${oil.name} ${share(oil.share_percent)}`),
    ...candidate.moved.map((oil) => `${oil.name} ${formatChange(oil.share_percent, 1).replace('.0', '')}`),
  ].join(' · ');
  const largest = candidate.terms.slice(0, 2).map((term) => `${term.name} ${formatChange(term.change, 1) || '±0'}`);
  const out = candidate.result.qualities.filter((quantity) => quantity.outside_by > 0).length;
  const { bar } = candidate.result;
  const beforeTrace = before.before.bar?.trace;
  return (
    <label className={choice.choice} data-chosen={isChosen}>
      <input
        type="radio"
        name="candidate"
        className={choice.radio}
        checked={isChosen}
        onChange={onChoose}
        data-testid={`candidate-${rank}`}
      />
      <span className={choice.who}>
        {rank}. {names}
      </span>
      <span className={classes.match}>
        <svg viewBox="0 0 100 8" preserveAspectRatio="none" aria-hidden>
          <rect className={classes.whole} width="100" height="8" rx="4" />
          <rect className={out > 0 ? classes.half : classes.good} width={candidate.match_percent} height="8" rx="4" />
        </svg>
        <b>{formatNumber(candidate.match_percent, 0)} %</b>
        <span>match · distance {formatNumber(candidate.distance, 1)}</span>
      </span>
      <span className={choice.small}>
        {largest.join(', ')}
        {bar && bar.trace !== beforeTrace && ` · ${bar.trace} trace`} ·{' '}
        {out === 0 ? 'all in target range' : `${out} out of target range`}
        {candidate.cost.per_kg != null && ` · ${formatNumber(candidate.cost.per_kg, 2)}/kg`}
      </span>
    </label>
  );
}

/** The maker's own blend, swapped by lye need alone, beside the best replacement. */
function Contrast({ answer, contrast }: { answer: SwapAnswer; contrast: NonNullable<SwapAnswer['equal_sap']> }) {
  const { qualities } = useReference();
  const best = answer.candidates[0];
  return (
    <div className={classes.sideBySide} data-testid="equal-sap">
      <p>
        <Sentence>{contrast.words}</Sentence>
      </p>
      <table>
        <thead>
          <tr>
            <th scope="col">points</th>
            <th scope="col">before</th>
            <th scope="col">equal lye</th>
            <th scope="col">best</th>
          </tr>
        </thead>
        <tbody>
          {qualities.map((quality, i) => {
            const before = answer.before.qualities[i]?.points ?? 0;
            const equal = contrast.result.qualities[i]?.points ?? 0;
            const after = best?.result.qualities[i]?.points;
            return (
              <tr key={quality.id}>
                <th scope="row">{quality.name}</th>
                <td>{formatNumber(before, 1)}</td>
                <td data-far={Math.abs(equal - before) >= 4}>
                  {formatNumber(equal, 1)} {formatChange(equal - before, 1)}
                </td>
                <td>{after === undefined ? '–' : `${formatNumber(after, 1)} ${formatChange(after - before, 1)}`}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
