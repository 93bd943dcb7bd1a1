import type { Diagnostic } from '../api/types';
import { Panel } from '../design/Panel';
import { Advice } from '../design/Sentence';
import classes from './Label.module.css';
import { useLabel } from './LabelContext';

const MARKS: Record<Diagnostic['severity'], string> = { problem: '✕', warning: '◆', note: '·' };
const WORDS: Record<Diagnostic['severity'], string> = { problem: 'Problem', warning: 'Warning', note: 'Note' };
const ORDER: Diagnostic['severity'][] = ['problem', 'warning', 'note'];

/** What stands in the way of printing, and what to know before it; the gravest first. */
export function ToKnow() {
  const { view } = useLabel();
  const said = [...view.diagnostics].sort((one, other) => ORDER.indexOf(one.severity) - ORDER.indexOf(other.severity));
  if (said.length === 0) return null;
  return (
    <Panel title="Before you print">
      <ul className={classes.known} aria-live="polite" data-testid="label-diagnostics">
        {said.map((one) => (
          <li key={`${one.code}-${one.path}-${JSON.stringify(one.params)}`} data-severity={one.severity}>
            <span role="img" aria-label={WORDS[one.severity]}>
              {MARKS[one.severity]}
            </span>
            <span>
              <Advice of={one} />
            </span>
          </li>
        ))}
      </ul>
    </Panel>
  );
}
