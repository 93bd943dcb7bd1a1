import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import type { Schools } from '../api/types';
import { useWorkshopChange, useWorkshopSoon } from '../api/workshop';
import { Panel } from '../design/Panel';
import classes from './Schools.module.css';

/** Where makers differ: what each says, what is usual here and why; what is chosen is what new work begins with. */
export function SchoolChoices() {
  const { data: questions } = useQuery({ queryKey: ['schools'], queryFn: () => answered(api.GET('/api/guide/schools')), staleTime: Number.POSITIVE_INFINITY });
  const workshop = useWorkshopSoon();
  const change = useWorkshopChange();
  const choose = (one: Partial<Schools>) => change.mutate((known) => ({ schools: { ...known.schools, ...one } }));
  if (questions === undefined || workshop === undefined) return null;
  const { schools } = workshop;
  return (
    <Panel title="Where makers differ" aside={change.isPending ? 'Saving …' : change.isSuccess ? 'Saved' : 'new work begins like this'}>
      {questions.map((question) => (
        <fieldset key={question.id} className={classes.question} data-testid={`school-${question.id}`}>
          <legend>{question.question}</legend>
          {question.options.map((option) => (
            <label key={option.value} className={classes.option}>
              <input
                type="radio"
                name={question.id}
                checked={schools[question.id as keyof Schools] === option.value}
                onChange={() => choose({ [question.id]: option.value })}
              />
              <span>
                <b>{option.label}</b>
                {option.value === question.usual && <em> usual</em>}
                {option.meaning && <small>{option.meaning}</small>}
              </span>
            </label>
          ))}
          <p className="muted">{question.why}</p>
        </fieldset>
      ))}
      {change.error !== null && (
        <p role="alert" className={classes.problem}>
          {change.error.message}
        </p>
      )}
    </Panel>
  );
}
