import { Button, TextInput } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import type { Criterion, Diagnostic, TestsView } from '../api/types';
import { Asked } from '../cure/Asked';
import type { CureEvent, Recorded } from '../cure/useCure';
import { Link } from 'react-router';

import { Dialog } from '../design/Dialog';
import { shortDate } from '../design/dates';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import buttons from '../design/buttons.module.css';
import classes from './Trials.module.css';

const AT_FIRST = 3;

/** The sheets of a batch: their means at each age, and one by one. */
export function SheetsPanel({ tests, record }: { tests: TestsView; record: (event: CureEvent) => Promise<Recorded> }) {
  const client = useQueryClient();
  const [isWhole, setWhole] = useState(false);
  const [wrong, setWrong] = useState<number | null>(null);
  const [reason, setReason] = useState('');
  const [problem, setProblem] = useState<Diagnostic | null>(null);
  const shown = isWhole ? tests.sheets : tests.sheets.slice(0, AT_FIRST);
  const byId = new Map(tests.criteria.map((one) => [one.id, one]));
  const judged = tests.criteria.filter((one) => tests.ages.some((age) => one.id in age.scores));
  const strike = async () => {
    if (wrong === null) return;
    const sent = await record({ kind: 'struck', seq: wrong, reason: reason.trim() });
    setProblem(sent.ok ? null : sent.problem);
    if (!sent.ok) return;
    setWrong(null);
    setReason('');
    void client.invalidateQueries({ queryKey: ['tests'] });
    void client.invalidateQueries({ queryKey: ['learning'] });
  };
  return (
    <Panel title="Sheets" aside={tests.sheets.length === 0 ? 'none yet' : `${tests.sheets.length}`}>
      {tests.sheets.length === 0 && <p className="muted">Bars of more than one age and more than one tester teach most.</p>}
      {judged.length > 0 && (
        <div className={classes.wide}>
          <table className={classes.ages} data-testid="ages">
            <thead>
              <tr>
                <th scope="col">Mean</th>
                {tests.ages.map((age) => (
                  <th key={age.age_weeks} scope="col">
                    {formatNumber(age.age_weeks, 0)} weeks
                    <small>{age.sheets === 1 ? '1 sheet' : `${age.sheets} sheets`}</small>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {judged.map((one) => (
                <tr key={one.id}>
                  <th scope="row">{one.name}</th>
                  {tests.ages.map((age) => (
                    <td key={age.age_weeks}>{age.scores[one.id] === undefined ? '–' : `${formatNumber(age.scores[one.id] ?? 0, 1)} ${nearest(one, age.scores[one.id] ?? 0)}`}</td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <p className={classes.lead}>
        <Link to={`/batches/${tests.batch_id}/beside/${tests.batch_id}`}>Side by side with another batch</Link>
      </p>
      <ol className={classes.sheets}>
        {shown.map(({ seq, at, sheet }) => (
          <li key={seq}>
            <span>
              <b>{sheet.tester}</b> {shortDate(at)}: {[...Object.entries(sheet.scores ?? {}).map(([id, score]) => told(byId.get(id), id, score)), ...Object.entries(sheet.measures ?? {}).map(([id, value]) => measured(tests, id, value))].join(' · ')}
              {sheet.text !== '' && <em> {sheet.text}</em>}
            </span>
            <button type="button" className={buttons.link} aria-label={`Strike the sheet of ${sheet.tester}, ${shortDate(at)}`} onClick={() => setWrong(seq)}>
              Strike
            </button>
          </li>
        ))}
      </ol>
      {tests.sheets.length > shown.length && (
        <button type="button" className={buttons.link} onClick={() => setWhole(true)}>
          {tests.sheets.length - shown.length} more
        </button>
      )}
      <Dialog opened={wrong !== null} onClose={() => setWrong(null)} title="This sheet was a slip">
        <p>It stays in the record, struck out, and no longer counts.</p>
        <TextInput label="What was wrong" value={reason} maxLength={500} onChange={(event) => setReason(event.currentTarget.value)} data-autofocus data-testid="sheet-reason" />
        <Asked problem={problem} />
        <Button mt={12} variant="filled" disabled={reason.trim() === ''} onClick={() => void strike()} data-testid="strike-sheet">
          Strike it
        </Button>
      </Dialog>
    </Panel>
  );
}

function nearest(criterion: Criterion, score: number): string {
  return criterion.words[Math.round(score) - 1] ?? '';
}

function told(criterion: Criterion | undefined, id: string, score: number): string {
  return criterion === undefined ? `${id} ${score}` : `${criterion.name.toLowerCase()} ${criterion.words[score - 1] ?? score}`;
}

function measured(tests: TestsView, id: string, value: number): string {
  const measure = tests.measures.find((one) => one.id === id);
  return `${measure?.name.toLowerCase() ?? id} ${formatNumber(value, 1)} ${measure?.unit ?? ''}`;
}
