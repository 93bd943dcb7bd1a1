import { Button, TextInput } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import type { TestsView } from '../api/types';
import type { CureEvent, Recorded } from '../cure/useCure';
import { Panel } from '../design/Panel';
import classes from './Trials.module.css';

/** What to do otherwise next time; it comes back when the formula is opened, planned and begun. */
export function LessonPanel({ tests, record }: { tests: TestsView; record: (event: CureEvent) => Promise<Recorded> }) {
  const client = useQueryClient();
  const [text, setText] = useState('');
  const note = async () => {
    if (text.trim() === '') return;
    if ((await record({ kind: 'noted', text: text.trim(), next_time: true })).ok) {
      setText('');
      void client.invalidateQueries({ queryKey: ['tests'] });
      void client.invalidateQueries({ queryKey: ['next-time'] });
    }
  };
  return (
    <Panel title="For next time" aside="shown when it is planned again">
      {tests.next_time.map((one) => (
        <p key={one} className={classes.lesson}>
          “{one}”
        </p>
      ))}
      <div className={classes.note}>
        <TextInput aria-label="For next time" placeholder="What you would change" value={text} maxLength={2000} onChange={(event) => setText(event.currentTarget.value)} onKeyDown={(event) => event.key === 'Enter' && void note()} data-testid="lesson" />
        <Button disabled={text.trim() === ''} onClick={() => void note()}>
          Add
        </Button>
      </div>
    </Panel>
  );
}
