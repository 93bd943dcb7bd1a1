import { Button } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import type { Formula } from '../api/types';
import { Panel } from '../design/Panel';
import { useTellFailure } from '../app/showFailure';
import classes from './Compare.module.css';

const MOST = 6;

/** One base, one change each: tick what to try, and get the test formulas. */
export function TrialSet({ base }: { base: Formula }) {
  const { data: trials = [] } = useQuery({
    queryKey: ['trial-set', base],
    queryFn: () => answered(api.POST('/api/trial-set', { body: base })),
    retry: false,
  });
  const [ticked, setTicked] = useState<string[]>(['base']);
  const navigate = useNavigate();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const toggle = (id: string) =>
    setTicked((now) => (now.includes(id) ? now.filter((one) => one !== id) : [...now, id].slice(-MOST)));
  const make = async () => {
    try {
      const made: string[] = [];
      for (const trial of trials.filter((one) => ticked.includes(one.id))) {
        const record = await answered(api.POST('/api/formulas', { body: trial.formula }));
        made.push(record.id);
      }
      await client.invalidateQueries({ queryKey: ['formulas'] });
      notifications.show({ message: `${made.length} test formulas are ready at 500 g of oils each.` });
      void navigate(`/formulas/${made[0]}/compare?with=${made.join(',')}`);
    } catch (error) {
      tellFailure(error);
    }
  };
  return (
    <Panel title="Trial set" aside="one base, one change each">
      <ul className={classes.trials}>
        {trials.map((trial) => (
          <li key={trial.id}>
            <label>
              <input
                type="checkbox"
                checked={ticked.includes(trial.id)}
                onChange={() => toggle(trial.id)}
                data-testid={`trial-${trial.id}`}
              />
              <span>
                <strong>{trial.change}</strong> {trial.shows}
              </span>
            </label>
          </li>
        ))}
      </ul>
      <Button variant="filled" disabled={ticked.length < 2} onClick={() => void make()} data-testid="make-trials">
        Make {ticked.length} test formulas
      </Button>
    </Panel>
  );
}
