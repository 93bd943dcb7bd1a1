import { Button, SegmentedControl, Select, TextInput } from '@mantine/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';

import { answered, api, ApiFailure } from '../api/client';
import { useOilsAndMaterials } from '../api/queries';
import type { Formula, TrialAsked } from '../api/types';
import { Amount } from '../cure/Amount';
import { Asked } from '../cure/Asked';
import { Panel } from '../design/Panel';
import { formatNumber, parseNumber } from '../design/quantity';
import classes from './Trials.module.css';

interface Limits {
  isIn: boolean;
  minimum: number | null;
  maximum: number | null;
}

/** Draw up a trial of a formula: one oil at several shares, or the few batches that teach most about three to five oils. */
export function NewTrial({ formulaId, formula }: { formulaId: string; formula: Formula }) {
  const navigate = useNavigate();
  const oils = useOilsAndMaterials();
  const { data: sheet } = useQuery({ queryKey: ['criteria'], queryFn: () => answered(api.GET('/api/criteria')) });
  const lines = formula.blend.lines.filter((line) => line.by === 'percent_of_oils' && line.value != null);
  const nameOf = (oil: string) => oils.find((one) => one.id === oil)?.name ?? oil;
  const [kind, setKind] = useState('levels');
  const [oil, setOil] = useState<string | null>(null);
  const [levels, setLevels] = useState('');
  const [criterion, setCriterion] = useState<string | null>('bubbles');
  const [limits, setLimits] = useState<Record<string, Limits>>({});
  const [batches, setBatches] = useState<number | null>(4);
  const [step, setStep] = useState<number | null>(5);
  const chosen = lines.filter((line) => limits[line.oil]?.isIn === true);
  const total = chosen.reduce((sum, line) => sum + (line.value ?? 0), 0);
  const numbers = levels.split(/[;\s]+|,(?=\s)/).filter(Boolean).map((word) => parseNumber(word.replace('%', '')));
  const levelsRead = numbers.flatMap((one) => (one.ok && one.value !== null ? [one.value] : []));
  const asked: TrialAsked | null =
    criterion === null
      ? null
      : kind === 'levels'
        ? oil !== null && levelsRead.length > 1 && levelsRead.length === numbers.length
          ? { formula_id: formulaId, name: `How much ${nameOf(oil).toLowerCase()}?`, criterion, levels: { oil, levels_percent: levelsRead } }
          : null
        : chosen.length > 2 && batches !== null && step !== null && chosen.every((line) => limits[line.oil]?.minimum != null && limits[line.oil]?.maximum != null)
          ? {
              formula_id: formulaId,
              name: `Which of ${chosen.map((line) => nameOf(line.oil).toLowerCase()).join(', ')}?`.slice(0, 120),
              criterion,
              design: {
                oils: chosen.map((line) => ({ oil: line.oil, minimum_percent: limits[line.oil]?.minimum ?? 0, maximum_percent: limits[line.oil]?.maximum ?? 0 })),
                total_percent: Math.round(total * 1000) / 1000,
                step_percent: step,
                batches,
              },
            }
          : null;
  const drawn = useQuery({
    queryKey: ['trial-drawn', asked],
    queryFn: ({ signal }) => answered(api.POST('/api/trials/draw-up', { body: asked as TrialAsked, signal })),
    enabled: asked !== null,
    retry: false,
  });
  const start = useMutation({
    mutationFn: () => answered(api.POST('/api/trials', { body: asked as TrialAsked })),
    onSuccess: (trial) => void navigate(`/trials/${trial.id}`),
  });
  const failure = start.error ?? (asked === null ? null : drawn.error);
  const problem = failure instanceof ApiFailure ? (failure.problems[0] ?? null) : null;
  const limit = (id: string, change: Partial<Limits>, share: number) =>
    setLimits((now) => ({ ...now, [id]: { ...(now[id] ?? { isIn: false, minimum: Math.max(0, share - 10), maximum: share + 10 }), ...change } }));
  return (
    <Panel title="Draw up a trial" aside="test batches of 500 g of oils">
      <SegmentedControl fullWidth value={kind} onChange={setKind} data={[{ value: 'levels', label: 'One oil, several shares' }, { value: 'design', label: 'Three to five oils' }]} aria-label="Kind of trial" data-testid="draw-kind" />
      <Select label="Judged by" mt={10} value={criterion} onChange={setCriterion} data={(sheet ?? []).map((one) => ({ value: one.id, label: one.name }))} allowDeselect={false} data-testid="draw-criterion" />
      {kind === 'levels' ? (
        <div className={classes.pair}>
          <Select label="Oil" value={oil} onChange={setOil} data={lines.map((line) => ({ value: line.oil, label: `${nameOf(line.oil)}, now ${formatNumber(line.value ?? 0, 1, 0)} %` }))} data-testid="draw-oil" />
          <TextInput label="Shares, %" placeholder="2, 5, 8" value={levels} onChange={(event) => setLevels(event.currentTarget.value)} data-testid="draw-levels" />
        </div>
      ) : (
        <>
          <p className={classes.lead}>Choose three to five, with the least and the most of each. They share what they take together now: {formatNumber(total, 1, 0)} %. The other oils stay.</p>
          <ul className={classes.limits}>
            {lines.map((line) => {
              const share = line.value ?? 0;
              const own = limits[line.oil] ?? { isIn: false, minimum: Math.max(0, share - 10), maximum: share + 10 };
              return (
                <li key={line.oil}>
                  <label>
                    <input type="checkbox" checked={own.isIn} onChange={(event) => limit(line.oil, { isIn: event.currentTarget.checked }, share)} /> {nameOf(line.oil)} <small>{formatNumber(share, 1, 0)} %</small>
                  </label>
                  {own.isIn && (
                    <span className={classes.pair}>
                      <Amount label="least" unit="%" decimals={1} value={{ value: own.minimum }} onChange={(typed) => limit(line.oil, { minimum: typed.value }, share)} />
                      <Amount label="most" unit="%" decimals={1} value={{ value: own.maximum }} onChange={(typed) => limit(line.oil, { maximum: typed.value }, share)} />
                    </span>
                  )}
                </li>
              );
            })}
          </ul>
          <div className={classes.pair}>
            <Amount label="Batches" value={{ value: batches }} onChange={(typed) => setBatches(typed.value)} />
            <Amount label="Steps of" unit="%" decimals={1} value={{ value: step }} onChange={(typed) => setStep(typed.value)} />
          </div>
        </>
      )}
      <Asked problem={problem} />
      {failure !== null && problem === null && <p role="alert">{failure.message}</p>}
      {asked !== null && drawn.data !== undefined && drawn.error === null && (
        <ol className={classes.sheets} data-testid="drawn">
          {drawn.data.runs.map((run, i) => (
            <li key={i}>{run.label}</li>
          ))}
        </ol>
      )}
      <Button mt={10} variant="filled" disabled={asked === null || drawn.data === undefined || drawn.error !== null} loading={start.isPending} onClick={() => start.mutate()} data-testid="start-trial">
        {drawn.data !== undefined && asked !== null ? `Start with ${drawn.data.runs.length} test batches` : 'Start the trial'}
      </Button>
    </Panel>
  );
}
