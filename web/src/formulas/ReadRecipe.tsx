import { Button, Textarea, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import { useOils } from '../api/queries';
import type { Formula, RecipeLine } from '../api/types';
import { Dialog } from '../design/Dialog';
import { formatNumber } from '../design/quantity';
import { SelectField } from '../design/SelectField';
import { useWeights } from '../design/units';
import { useTellFailure } from '../app/showFailure';
import classes from './ReadRecipe.module.css';

const QUIET_MS = 250;
const LEFT_OUT = '-';
const KINDS: Record<RecipeLine['kind'], string> = {
  oil: '',
  lye: 'lye: calculated anew',
  water: 'water: calculated anew',
  superfat: 'superfat',
  unread: 'not read: write a name and one amount with its unit',
};

interface ReadRecipeProps {
  onClose: () => void;
  onRead: (formula: Formula) => void;
}

/** A recipe from paper, typed or pasted line by line; every oil is named by its maker where the words leave a doubt. */
export function ReadRecipe({ onClose, onRead }: ReadRecipeProps) {
  const [name, setName] = useState('');
  const [text, setText] = useState('');
  const [chosen, setChosen] = useState<Record<string, string>>({});
  const [settled] = useDebouncedValue(text, QUIET_MS);
  const oils = useOils();
  const weights = useWeights();
  const tellFailure = useTellFailure();
  const { data: read } = useQuery({
    queryKey: ['recipe', settled],
    queryFn: ({ signal }) => answered(api.POST('/api/recipes/read', { body: { text: settled }, signal })),
    enabled: settled.trim() !== '',
    placeholderData: (previous) => previous,
  });
  const lines = settled.trim() === '' ? [] : (read?.lines ?? []);
  const oilOf = (line: RecipeLine) => line.oil ?? chosen[line.name.toLowerCase()];
  const ofOils = lines.filter((line) => line.kind === 'oil');
  const open = ofOils.filter((line) => oilOf(line) === undefined);
  const taken = ofOils.filter((line) => oilOf(line) !== undefined && oilOf(line) !== LEFT_OUT);
  const isReady = text === settled && open.length === 0 && taken.length > 0 && name.trim() !== '';

  const make = async () => {
    try {
      onRead(
        await answered(
          api.POST('/api/recipes/formula', {
            body: {
              name: name.trim(),
              superfat_percent: read?.superfat_percent ?? null,
              oils: taken.map((line) => ({ oil: oilOf(line) ?? '', amount: line.amount ?? 0, unit: line.unit ?? 'g' })),
            },
          }),
        ),
      );
    } catch (error) {
      tellFailure(error);
    }
  };

  return (
    <Dialog opened onClose={onClose} title="Read a recipe" size="xl" closeButtonProps={{ 'aria-label': 'Close without reading' }}>
      <div className={classes.columns}>
        <div>
          <TextInput label="Name" value={name} onChange={(event) => setName(event.currentTarget.value)} data-testid="recipe-name" />
          <Textarea
            mt="sm"
            label="Its lines, as they stand on the paper"
            description="Grams, kilograms, ounces, pounds or percent, in any order."
            placeholder={'12 oz coconut oil\n1 lb 3 oz lard\ncastor 50 g\nsuperfat 5 %'}
            autosize
            minRows={9}
            maxRows={18}
            value={text}
            onChange={(event) => setText(event.currentTarget.value)}
            data-testid="recipe-text"
          />
        </div>
        <div aria-live="polite">
          {lines.length === 0 ? (
            <p className={classes.hint}>
              What is read stands here, line by line. Lye and water are calculated anew from the oils: only the purity of your lye is still asked for.
            </p>
          ) : (
            <ul className={classes.lines} data-testid="recipe-lines">
              {lines.map((line, i) => (
                <li key={i} data-kind={line.kind} data-open={line.kind === 'oil' && oilOf(line) === undefined}>
                  <span>{line.text}</span>
                  <span className={classes.amount}>
                    {line.amount == null ? '' : line.unit === 'g' ? weights.tell(line.amount, 1) : `${formatNumber(line.amount, 2, 0)} %`}
                  </span>
                  {line.kind !== 'oil' ? (
                    <em>{KINDS[line.kind]}</em>
                  ) : line.oil ? (
                    <b>{oils.find((oil) => oil.id === line.oil)?.name}</b>
                  ) : (
                    <SelectField
                      label={`Which oil is “${line.name}”?`}
                      value={chosen[line.name.toLowerCase()] ?? ''}
                      options={[
                        { value: '', label: 'which one?' },
                        ...line.suggestions.map((one) => ({ value: one.oil, label: one.name })),
                        { value: LEFT_OUT, label: 'leave it out' },
                      ]}
                      onChange={(oil) =>
                        setChosen((now) => {
                          const others = Object.entries(now).filter(([known]) => known !== line.name.toLowerCase());
                          return Object.fromEntries(oil === '' ? others : [...others, [line.name.toLowerCase(), oil]]);
                        })
                      }
                      testId={`recipe-oil-${i}`}
                    />
                  )}
                </li>
              ))}
            </ul>
          )}
          {open.length > 0 && <p className={classes.hint}>{open.length === 1 ? 'One name is' : `${open.length} names are`} not that of one oil alone: choose.</p>}
        </div>
      </div>
      <div className={classes.foot}>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="filled" disabled={!isReady} onClick={() => void make()} data-testid="recipe-make">
          Make it a formula
        </Button>
      </div>
    </Dialog>
  );
}
