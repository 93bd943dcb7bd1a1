import { Button } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import type { Formula } from '../api/types';
import { useTellFailure } from '../app/showFailure';
import { MiniBlend } from '../formulas/MiniLoaf';
import { HatchDefs } from '../design/HatchDefs';
import { ReadRecipe } from '../formulas/ReadRecipe';
import { WorkshopSettings } from '../guide/WorkshopSettings';
import classes from './FirstUse.module.css';

/** An empty workshop: three questions, and three ways to a first formula. */
export function FirstUse() {
  const [isReading, setReading] = useState(false);
  const navigate = useNavigate();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const { data: starters = [] } = useQuery({ queryKey: ['starters'], queryFn: () => answered(api.GET('/api/starters')) });
  const begin = async (formula: Formula | null) => {
    try {
      // The habits may have changed since the page was opened.
      const body = formula ?? (await answered(api.GET('/api/starting-formula')));
      const record = await answered(api.POST('/api/formulas', { body }));
      await client.invalidateQueries({ queryKey: ['formulas'] });
      void navigate(`/formulas/${record.id}`);
    } catch (error) {
      tellFailure(error);
    }
  };
  const beginWith = async (id: string) => {
    try {
      const now = await answered(api.GET('/api/starters'));
      await begin(now.find((one) => one.id === id)?.formula ?? null);
    } catch (error) {
      tellFailure(error);
    }
  };
  return (
    <div className={classes.page}>
      <HatchDefs />
      <h1>An empty workshop</h1>
      <p className={classes.lead}>
        Three questions, all of which can wait, and then your first formula. Sapolin weighs, calculates and remembers; you design and pour.
      </p>
      <WorkshopSettings />
      <h2>Begin with</h2>
      <ul className={classes.starters}>
        {starters.map((starter) => (
          <li key={starter.id}>
            <MiniBlend id={starter.id} formula={starter.formula} />
            <h3>{starter.formula.name}</h3>
            <p>{starter.why}</p>
            <Button onClick={() => void beginWith(starter.id)} size="md" data-testid={`starter-${starter.id}`}>
              Open it
            </Button>
          </li>
        ))}
      </ul>
      <div className={classes.other}>
        <Button size="md" variant="filled" onClick={() => setReading(true)} data-testid="read-recipe">
          Read a recipe from paper
        </Button>
        <Button size="md" onClick={() => void begin(null)} data-testid="new-formula">
          An empty formula
        </Button>
        <span className="muted">To look around in a made-up workshop first, stop Sapolin and start it with ./run demo.</span>
      </div>
      {isReading && <ReadRecipe onClose={() => setReading(false)} onRead={(formula) => void begin(formula)} />}
    </div>
  );
}
