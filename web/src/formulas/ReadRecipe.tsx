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
const NOTED = '+';
const KINDS: Record<RecipeLine['kind'], string> = {
  oil: '',
  lye: 'lye: calculated anew, kept in the notes',
  water: 'water: calculated anew, kept in the notes',
  superfat: 'superfat',
  unread: 'kept in the notes',
};
const WHY: Record<RecipeLine['why'], string> = {
  '': '',
  ambiguous: 'Its number can be read two ways: write it without the sign between.',
  two_amounts: 'Its two amounts do not agree.',
  no_fat: 'Not a fat that Sapolin knows.',
  no_amount: 'No amount with a unit for fats: g, kg, oz, lb or %.',
  no_name: 'No name.',
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
  const keyOf = (line: RecipeLine) => (line.kind === 'oil' ? line.name : line.text).toLowerCase();
  const oilOf = (line: RecipeLine) => line.oil ?? chosen[keyOf(line)];
  // A line that holds an amount is not passed over: it is an oil, a note, or crossed out.
  const isAsked = (line: RecipeLine) => line.kind === 'oil' || (line.kind === 'unread' && line.holds_an_amount);
  const open = lines.filter((line) => isAsked(line) && oilOf(line) === undefined);
  const taken = lines.filter((line) => isAsked(line) && line.amount != null && oilOf(line) !== undefined && oilOf(line) !== LEFT_OUT && oilOf(line) !== NOTED);
  const noted = lines.filter((line) => line.kind === 'lye' || line.kind === 'water' || (line.kind === 'unread' && !line.holds_an_amount) || oilOf(line) === NOTED);
  const lyes = new Set(lines.map((line) => line.lye).filter((lye) => lye != null));
  const isReady = text === settled && open.length === 0 && taken.length > 0 && name.trim() !== '';

  const make = async () => {
    try {
      onRead(
        await answered(
          api.POST('/api/recipes/formula', {
            body: {
              name: name.trim(),
              superfat_percent: read?.superfat_percent ?? null,
              is_koh: lyes.has('koh') && !lyes.has('naoh'),
              notes: noted.map((line) => line.text).join('\n'),
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
                <li key={i} data-kind={line.kind} data-open={open.includes(line)} data-crossed={oilOf(line) === LEFT_OUT}>
                  <span>
                    {line.text}
                    {isAsked(line) && WHY[line.why] !== '' && oilOf(line) === undefined && <small>{WHY[line.why]}</small>}
                  </span>
                  <span className={classes.amount}>
                    {line.amount == null ? '' : line.unit === 'g' ? weights.tell(line.amount, 1) : `${formatNumber(line.amount, 2, 0)} %`}
                  </span>
                  {!isAsked(line) ? (
                    <em>{line.kind === 'lye' ? `${line.lye === 'koh' ? 'KOH' : 'NaOH'}: calculated anew, kept in the notes` : KINDS[line.kind]}</em>
                  ) : line.oil ? (
                    <b>{oils.find((oil) => oil.id === line.oil)?.name}</b>
                  ) : (
                    <SelectField
                      label={line.name === '' ? `What is “${line.text}”?` : `Which oil is “${line.name}”?`}
                      value={chosen[keyOf(line)] ?? ''}
                      options={[
                        { value: '', label: line.kind === 'oil' ? 'which one?' : 'what is it?' },
                        ...line.suggestions.map((one) => ({ value: one.oil, label: one.name })),
                        { value: NOTED, label: 'keep it as a note' },
                        { value: LEFT_OUT, label: 'cross it out' },
                        ...(line.amount == null ? [] : oils.filter((oil) => !line.suggestions.some((one) => one.oil === oil.id)).map((oil) => ({ value: oil.id, label: oil.name }))),
                      ]}
                      onChange={(oil) =>
                        setChosen((now) => {
                          const others = Object.entries(now).filter(([known]) => known !== keyOf(line));
                          return Object.fromEntries(oil === '' ? others : [...others, [keyOf(line), oil]]);
                        })
                      }
                      testId={`recipe-oil-${i}`}
                    />
                  )}
                </li>
              ))}
            </ul>
          )}
          {open.length > 0 && <p className={classes.hint}>{open.length === 1 ? 'One line waits for you to say what it is.' : `${open.length} lines wait for you to say what they are.`}</p>}
          {lyes.size === 2 && <p className={classes.hint}>The paper has both lyes: the formula begins with NaOH. Set the share of KOH in Design.</p>}
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
