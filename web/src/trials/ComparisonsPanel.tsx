import { Button } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';

import type { ComparisonView, TestsView } from '../api/types';
import { Panel } from '../design/Panel';
import { Sentence } from '../design/Sentence';
import { StartComparison } from './StartComparison';
import classes from './Trials.module.css';

/** The blind comparisons that bars of this batch take part in. */
export function ComparisonsPanel({ tests }: { tests: TestsView }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <Panel title="Bars without names" aside="blind: codes until all is judged">
      {tests.comparisons.length === 0 && <p className="muted">Two bars side by side show what words on a sheet miss. The codes hide which is which.</p>}
      <ul className={classes.list}>
        {tests.comparisons.map((one) => (
          <li key={one.id}>
            <Link to={`/comparisons/${one.id}`}>{one.setup.question}</Link>
            <small>{one.verdict === null ? howFar(one) : <Sentence>{one.verdict.words}</Sentence>}</small>
          </li>
        ))}
      </ul>
      {tests.fit === 'fit' && (
        <Button onClick={() => setOpen(true)} data-testid="start-comparison">
          Compare blind
        </Button>
      )}
      {isOpen && <StartComparison tests={tests} onClose={() => setOpen(false)} />}
    </Panel>
  );
}

function howFar(one: ComparisonView): string {
  const judged = one.turns.reduce((sum, turn) => sum + turn.judged, 0);
  const of = one.turns.reduce((sum, turn) => sum + turn.of, 0);
  return `${judged} of ${of} rounds judged`;
}
