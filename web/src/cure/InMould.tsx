import { Button } from '@mantine/core';
import { useState } from 'react';

import { dateTime } from '../design/dates';
import { Panel } from '../design/Panel';
import { Asked } from './Asked';
import classes from './Cure.module.css';
import { useCuring, useEntry, type CureEvent } from './useCure';

const PRESSES = [
  { firmness: 'tacky', says: 'Tacky', means: 'sticks to the glove' },
  { firmness: 'soft', says: 'Soft', means: 'a finger leaves a dent' },
  { firmness: 'firm', says: 'Firm', means: 'like hard cheese' },
  { firmness: 'brittle', says: 'Brittle', means: 'hard, edges chip' },
] as const;
const WAYS = [
  { how: 'clean', says: 'It came out clean' },
  { how: 'stuck', says: 'It stuck' },
  { how: 'broke', says: 'It broke' },
] as const;

type MouldEvent = Extract<CureEvent, { kind: 'pressed' | 'unmoulded' }>;

/** In the mould: when it can leave, moved by pressing it; then out of it. */
export function InMould() {
  const { view } = useCuring();
  const { problem, send } = useEntry();
  const [asked, setAsked] = useState<MouldEvent | null>(null);
  const record = (event: MouldEvent) => {
    setAsked(event);
    void send(event);
  };
  const { unmould, unmould_from: from, unmould_to: to } = view;
  const last = view.state.presses.at(-1);
  return (
    <Panel title="In the mould" aside={unmould === null ? undefined : 'an estimate'}>
      {from !== null && to !== null && (
        <p className={classes.lead} data-testid="unmould-window">
          {unmould?.can_now ? (
            <>
              Firm enough: <b>unmould and cut it now</b>
              {unmould.is_late ? '. It may crack: warm it a little first, and cut slowly.' : ', before it grows too hard.'}
            </>
          ) : (
            <>
              Unmould <b>{dateTime(from)}</b> to <b>{dateTime(to)}</b>
              {last !== undefined && `, moved by ${view.state.presses.length === 1 ? 'one press' : `${view.state.presses.length} presses`}`}.
            </>
          )}
        </p>
      )}
      <p className={classes.safety}>Gloves on: fresh soap burns until about a day after pouring.</p>
      <h3 className={classes.sub}>Press it with a gloved finger</h3>
      <div className={classes.four}>
        {PRESSES.map(({ firmness, says, means }) => (
          <button key={firmness} type="button" className={classes.big} onClick={() => record({ kind: 'pressed', firmness, sure: false })} data-testid={`press-${firmness}`}>
            {says}
            <small>{means}</small>
          </button>
        ))}
      </div>
      <h3 className={classes.sub}>Out of the mould</h3>
      <div className={classes.row}>
        {WAYS.map(({ how, says }) => (
          <Button key={how} size="md" variant={how === 'clean' ? 'filled' : 'default'} onClick={() => record({ kind: 'unmoulded', how, sure: false })} data-testid={`unmould-${how}`}>
            {says}
          </Button>
        ))}
      </div>
      <Asked problem={problem} onSure={() => asked && record({ ...asked, sure: true })} />
    </Panel>
  );
}
