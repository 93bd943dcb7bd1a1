import { Button } from '@mantine/core';
import { useDocumentTitle, useHotkeys } from '@mantine/hooks';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { Link, useParams } from 'react-router';

import { answered, api } from '../api/client';
import { filled } from '../api/filled';
import type { Exercise, Graded } from '../api/types';
import { Missing } from '../app/Missing';
import { Pending } from '../app/Pending';
import { useTellFailure } from '../app/showFailure';
import columns from '../design/columns.module.css';
import { NumberField } from '../design/NumberField';
import { Panel } from '../design/Panel';
import { Sentence } from '../design/Sentence';
import { useWeights } from '../design/units';
import { GuideHead } from './GuideHead';
import classes from './Pages.module.css';

type Kind = Exercise['kind'];
const MOST_SEED = 1_000_000;
const newSeed = () => Math.floor(Math.random() * MOST_SEED);

/** What can be practised, and how far one is. */
export function Practice() {
  const { data } = useQuery({ queryKey: ['practice'], queryFn: () => answered(api.GET('/api/practice')), refetchOnMount: 'always' });
  useDocumentTitle('Practice · Sapolin');
  if (data === undefined) return <Pending />;
  return (
    <div className={columns.page}>
      <GuideHead>Practice</GuideHead>
      <p className={classes.lead}>Made-up batches, real calculations. Nothing here touches your formulas, batches or stock.</p>
      <ul className={classes.cards}>
        {data.kinds.map((one) => (
          <li key={one.kind}>
            <Link to={`/guide/practice/${one.kind}`} className={classes.card} data-testid={`practise-${one.kind}`}>
              <b>{one.title}</b>
              <span>{one.so_far.answered === 0 ? 'not tried yet' : `${one.so_far.right} right of ${one.so_far.answered} answers`}</span>
            </Link>
          </li>
        ))}
      </ul>
      <h2 className={classes.group}>Short courses</h2>
      <div className={columns.columns}>
        {data.courses.map(({ course, done }) => (
          <Panel key={course.id} title={course.title}>
            <p className="muted">{course.short}</p>
            <ol className={classes.steps}>
              {course.steps.map((step, i) => (
                <li key={`${step.kind}-${step.title}`}>
                  <span className={classes.mark} aria-hidden>
                    {done[i] === true ? '✓' : step.kind === 'page' ? '¶' : step.kind === 'exercise' ? '?' : '→'}
                  </span>
                  <Link to={step.kind === 'page' ? `/guide/why/${step.page}` : step.kind === 'exercise' ? `/guide/practice/${step.exercise}` : (step.to ?? '/')}>{step.title}</Link>
                  {step.kind === 'exercise' && <small className="muted">{done[i] ? 'done' : `${step.times} right`}</small>}
                </li>
              ))}
            </ol>
          </Panel>
        ))}
      </div>
    </div>
  );
}

/** One exercise after the other of a kind. */
export function PracticeOne() {
  const { kind = '' } = useParams();
  const [seed, setSeed] = useState(newSeed);
  const { data, error } = useQuery({
    queryKey: ['exercise', kind, seed],
    queryFn: () => answered(api.GET('/api/practice/{kind}/{seed}', { params: { path: { kind: kind as Kind, seed } } })),
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  useDocumentTitle(`${data?.title ?? 'Practice'} · Sapolin`);
  if (error !== null) return <Missing title="There is no such exercise" message={error.message} />;
  return (
    <div className={columns.page}>
      <GuideHead>{data?.title ?? 'Practice'}</GuideHead>
      {data === undefined ? <Pending /> : <Asked key={`${kind}-${seed}`} exercise={data} onNext={() => setSeed(newSeed())} />}
    </div>
  );
}

function Asked({ exercise, onNext }: { exercise: Exercise; onNext: () => void }) {
  const [option, setOption] = useState<string | null>(null);
  const [number, setNumber] = useState<{ value: number | null; unread?: string }>({ value: exercise.starts_at ?? null });
  const [graded, setGraded] = useState<Graded | null>(null);
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const weights = useWeights();
  const verdict = useRef<HTMLDivElement>(null);
  const canAnswer = exercise.answered_by === 'choice' ? option !== null : number.value !== null && number.unread === undefined;
  const check = async () => {
    if (!canAnswer || graded !== null) return;
    try {
      const given = { option, number: exercise.answered_by === 'choice' ? null : number.value };
      const params = { path: { kind: exercise.kind, seed: exercise.seed } };
      const send = (key: string) => answered(api.POST('/api/practice/{kind}/{seed}', { params, body: { key, answered: given } }));
      setGraded(await filled(['practice', params, given], send));
      await client.invalidateQueries({ queryKey: ['practice'] });
    } catch (error) {
      tellFailure(error);
    }
  };
  useEffect(() => {
    if (graded !== null) verdict.current?.focus();
  }, [graded]);
  const choose = (index: number) => {
    const one = exercise.options?.[index];
    if (one && graded === null) setOption(one.id);
  };
  useHotkeys([
    ['1', () => choose(0)],
    ['2', () => choose(1)],
    ['3', () => choose(2)],
    ['4', () => choose(3)],
    ['Enter', () => (graded === null ? void check() : onNext())],
  ]);
  const move = (grams: number) => graded === null && setNumber((now) => ({ value: Math.max(0, Math.round(((now.value ?? 0) + grams) * 10) / 10) }));
  return (
    <article data-testid="exercise" data-kind={exercise.kind}>
      <ul className={classes.given}>
        {exercise.given.map((line) => (
          <li key={JSON.stringify(line)}>
            <Sentence>{line}</Sentence>
          </li>
        ))}
      </ul>
      <p className={classes.question} id="question">
        <Sentence>{exercise.question}</Sentence>
      </p>
      {exercise.answered_by === 'choice' && (
        <div className={classes.answers} role="radiogroup" aria-labelledby="question">
          {exercise.options?.map((one, i) => (
            <button
              key={one.id}
              type="button"
              role="radio"
              aria-checked={option === one.id}
              className={classes.answer}
              disabled={graded !== null}
              onClick={() => setOption(one.id)}
              data-testid={`option-${i + 1}`}
            >
              {i + 1} · <Sentence>{one.label}</Sentence>
            </button>
          ))}
        </div>
      )}
      {exercise.answered_by === 'scale' && (
        <div className={classes.scale} role="group" aria-label="The scale">
          <output data-testid="practice-scale">{weights.format(number.value ?? 0, 1)}</output>
          <span className="muted">
            {weights.unit}, of {weights.format(exercise.aims_at ?? 0, 1)}
          </span>
          <Button onClick={() => move(-5)}>Spoon out</Button>
          <Button onClick={() => move(-1)}>Take a little out</Button>
          <Button onClick={() => move(-0.1)} data-testid="pinch">
            Pinch out
          </Button>
          <Button onClick={() => move(0.1)}>Pinch in</Button>
          <Button onClick={() => move(1)}>Put a little in</Button>
        </div>
      )}
      {exercise.answered_by === 'number' && (
        <div className={classes.scale}>
          <NumberField
            showLabel
            label="Your answer"
            value={number.value}
            unit={weights.unit}
            step={10}
            format={(grams) => weights.format(grams, 0)}
            parse={weights.parse}
            unread={number.unread}
            onUnread={(text) => setNumber((now) => ({ ...now, unread: text ?? undefined }))}
            onChange={(value) => setNumber({ value })}
            onKeyDown={(event) => {
              if (event.key === 'Enter') void check();
            }}
            testId="practice-number"
          />
        </div>
      )}
      {graded === null ? (
        <p>
          <Button variant="filled" size="md" disabled={!canAnswer} onClick={() => void check()} data-testid="check-answer">
            Check
          </Button>
        </p>
      ) : (
        <div className={classes.verdict} data-right={graded.right} ref={verdict} tabIndex={-1} role="status" data-testid="verdict">
          <h2>{graded.right ? 'Right' : 'Not quite'}</h2>
          <p>
            <b>
              <Sentence>{graded.answer}</Sentence>
            </b>
          </p>
          {graded.why.map((line) => (
            <p key={JSON.stringify(line)}>
              <Sentence>{line}</Sentence>
            </p>
          ))}
          <Button variant="filled" onClick={onNext} data-testid="next-exercise">
            Another one
          </Button>
        </div>
      )}
    </article>
  );
}
