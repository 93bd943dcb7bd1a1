import { Textarea } from '@mantine/core';

import type { ClaimFlag } from '../api/types';
import { Panel } from '../design/Panel';
import { Sentence } from '../design/Sentence';
import classes from './Label.module.css';
import { useLabel } from './LabelContext';

const VERDICTS: Record<ClaimFlag['verdict'], string> = {
  reword: 'says more than washing',
  contradicted: 'is not so',
  check: 'needs a proof',
  holds: 'holds for this batch',
};

/** A sentence of one's own, and what in it to look at. */
export function Words() {
  const { draft, view, change } = useLabel();
  const { claim, name } = draft.design;
  return (
    <Panel title="Words checked">
      <Textarea label="A sentence of your own" autosize minRows={2} maxLength={300} value={claim} placeholder="such as: a mild bar for every day, made in the valley" onChange={(event) => change({ claim: event.currentTarget.value }, 'claim')} onBlur={draft.closeStep} data-testid="label-claim" />
      {view.flags.length > 0 && view.design.claim === claim && <Marked text={claim} flags={view.flags} />}
      <Flags flags={view.flags} text={claim} onReplace={(next) => change({ claim: next })} />
      {view.name_flags.length > 0 && <Flags flags={view.name_flags} text={name} onReplace={(next) => change({ name: next })} />}
      {claim.trim() !== '' && view.flags.length === 0 && <p className={classes.about}>Nothing in it is on the lists of words to look at.</p>}
      <p className={classes.about}>The lists know common words in the languages of the label, not every one. Local rules decide.</p>
    </Panel>
  );
}

/** The sentence with what was found in it marked. */
function Marked({ text, flags }: { text: string; flags: ClaimFlag[] }) {
  const ends = [0, ...flags.map((flag) => flag.end)];
  return (
    <p className={classes.marked}>
      {flags.map((flag, i) => (
        <span key={flag.start}>
          {text.slice(ends[i], flag.start)}
          <mark data-verdict={flag.verdict}>{text.slice(flag.start, flag.end)}</mark>
        </span>
      ))}
      {text.slice(ends.at(-1))}
    </p>
  );
}

function Flags({ flags, text, onReplace }: { flags: ClaimFlag[]; text: string; onReplace: (text: string) => void }) {
  return (
    <ul className={classes.flags} data-testid="claims">
      {flags.map((flag) => (
        <li key={`${flag.start}-${flag.words}`} data-verdict={flag.verdict}>
          <strong>“{flag.words}”</strong> {VERDICTS[flag.verdict]}. <Sentence>{flag.reason}</Sentence>
          {flag.instead !== '' && (
            <button type="button" className={classes.instead} onClick={() => onReplace(text.slice(0, flag.start) + flag.instead + text.slice(flag.end))}>
              Say “{flag.instead}”
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}
