import { Button, Loader, Menu, Text } from '@mantine/core';
import { useDebouncedValue, useDocumentTitle, useHotkeys } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';

import { answered, api } from '../api/client';
import { useOilsAndMaterials, useResultOf, useReference } from '../api/queries';
import type { Formula, FormulaRecord, StartingQuestion } from '../api/types';
import columns from '../design/columns.module.css';
import { MenuButton } from '../design/MenuButton';
import { ChainMap } from '../design/scales/ChainMap';
import { ResultContext } from '../design/scales/ResultContext';
import { CompositionChanges } from '../design/scales/CompositionChanges';
import { HatchDefs } from '../design/HatchDefs';
import { FormulaStages } from '../formulas/FormulaStages';
import { Panel } from '../design/Panel';
import { Refused } from '../design/Refused';
import { useTargetSets } from '../design/targetSets';
import { useTellFailure } from '../app/showFailure';
import { Sentence } from '../design/Sentence';
import { useKeepAsVersion } from '../sync/useKeepAsVersion';
import { WithFormula } from '../app/WithFormula';
import { ExplanationDrawer } from '../design/ExplanationDrawer';
import { TabbedPanel } from '../design/TabbedPanel';
import { Answers } from './Answers';
import { Choice } from './Choice';
import { Limits } from './Limits';
import { inWords, rowsOf, toQuestion, type Asked } from './question';
import classes from './Solve.module.css';
import { Targets } from './Targets';
import { startOf, useSolve } from './useSolve';

const QUIET_MS = 250;

/** Say what a bar should be, and be given the blends that are it, or the reason why not. */
export function Solve() {
  return <WithFormula>{(record) => <BegunSolve key={`${record.id}-${record.revision}`} record={record} />}</WithFormula>;
}

function BegunSolve({ record }: { record: FormulaRecord }) {
  const { data: start, error } = useQuery({
    queryKey: ['solve-start', record.id, record.revision],
    queryFn: () => startOf(record.formula),
    staleTime: Infinity,
  });
  if (error !== null) return <Text c="red">{error.message}</Text>;
  return start === undefined ? <Loader m="xl" /> : <OpenSolve record={record} start={start} />;
}

function OpenSolve({ record, start: first }: { record: FormulaRecord; start: StartingQuestion }) {
  const { purposes, purposes_to_solve: others, qualities, target_features: features } = useReference();
  const own = record.formula.purpose;
  const oils = useOilsAndMaterials();
  const [purposeId, setPurposeId] = useState(own);
  const [asked, setAsked] = useState<Asked>(() => ({ ...first, targets: rowsOf(first.targets, qualities) }));
  const sets = useTargetSets();
  const [chosen, setChosen] = useState(0);
  const [quantity, setQuantity] = useState<string | null>(null);
  const purpose = purposes.find((known) => known.id === purposeId);
  const { state, of, failure, start, cancel } = useSolve();
  useDocumentTitle(`Solve ${record.formula.name} · Sapolin`);

  const question = useMemo(
    () => ({ ...toQuestion(asked, record.formula), purpose: purposeId }),
    [asked, record.formula, purposeId],
  );
  const [settled] = useDebouncedValue(question, QUIET_MS);
  useEffect(() => {
    if (settled.targets.length > 0) start(settled);
  }, [settled, start]);

  const isStale = of !== question || state?.state !== 'done' || failure !== null;
  const soFar = state?.state === 'running' ? (state.best ?? null) : null;
  const resultSoFar = useResultOf(soFar) ?? null;
  const solution = state?.answer?.solutions[chosen] ?? state?.answer?.solutions[0] ?? null;
  const [tab, setTab] = useState('why');
  const [picked, setPicked] = useState<Formula | null>(null);
  const resultPicked = useResultOf(tab === 'choice' ? picked : null) ?? null;
  const result = resultPicked ?? solution?.result ?? resultSoFar;
  const lyeIsKnown = resultPicked !== null || (solution?.lye_is_known ?? false);
  const before = useResultOf(record.formula.blend.lines.length > 0 ? record.formula : null) ?? null;
  const shown = useMemo(() => ({ result, isStale, explain: setQuantity }), [result, isStale]);
  const keep = useKeepAsVersion(record);
  const take = () => {
    const formula = resultPicked === null ? solution?.formula : picked;
    if (formula && !isStale) void keep(formula, inWords(asked, features, oils));
  };
  useHotkeys([['mod+Enter', take]], []);
  const ask = (change: Partial<Asked>) => {
    setAsked((now) => ({ ...now, ...change }));
    setChosen(0);
  };

  const tellFailure = useTellFailure();
  const forPurpose = async (id: string) => {
    try {
      const { targets } = await startOf(record.formula, id);
      setPurposeId(id);
      ask({ targets: rowsOf(targets, qualities) });
    } catch (problem) {
      tellFailure(problem);
    }
  };
  const likeThis = async () => {
    try {
      ask({ targets: await answered(api.POST('/api/solve-targets', { body: record.formula })) });
    } catch (problem) {
      tellFailure(problem);
    }
  };

  return (
    <ResultContext value={shown}>
      <HatchDefs />
      <div className={columns.page}>
        <div className={classes.header}>
          <h1 className={classes.title}>{record.formula.name}</h1>
          <FormulaStages formulaId={record.id} />
          <MenuButton
            button={
              <button type="button" className={classes.headChip} data-testid="solve-purpose">
                {purpose?.makes === 'bar' ? 'a bar for' : 'to make'} <strong>{purpose?.name.toLowerCase()}</strong> ▾
              </button>
            }
          >
            {purposes
              .filter((known) => known.id === own || others.includes(known.id))
              .map((known) => (
                <Menu.Item
                  key={known.id}
                  aria-current={known.id === purposeId}
                  onClick={() => void forPurpose(known.id)}
                >
                  {known.name}
                </Menu.Item>
              ))}
            {sets.length > 0 && <Menu.Label>Your own targets</Menu.Label>}
            {sets.map((set) => (
              <Menu.Item key={set.id} onClick={() => ask({ targets: rowsOf(set.targets, qualities) })}>
                {set.name}
              </Menu.Item>
            ))}
          </MenuButton>
          <span className="muted">
            {purposeId === own ? 'Its lye, water and additives stay as they are.' : 'Superfat, kind of lye and process are those usual for it.'}
          </span>
          <Button variant="filled" ml="auto" disabled={solution === null || isStale} onClick={take} rightSection={<small>Ctrl ↵</small>} data-testid="keep-solution">
            Keep as a version
          </Button>
        </div>
        <div className={columns.columns}>
          <div className={columns.column}>
            <Targets
              targets={asked.targets}
              onChange={(targets) => ask({ targets })}
              result={result}
              met={solution?.targets ?? []}
              onLikeThis={() => void likeThis()}
            />
            <Limits asked={asked} formula={record.formula} onChange={ask} />
          </div>
          <div className={columns.column}>
            {failure !== null && <Refused error={failure} />}
            <Answers
              state={failure === null ? state : null}
              soFar={resultSoFar}
              chosen={chosen}
              onChoose={setChosen}
              onCancel={cancel}
              onLift={(name) => ask({ lifted: [...asked.lifted, name] })}
              onAccept={({ feature, minimum, maximum }) =>
                ask({ targets: asked.targets.map((target) => (target.feature === feature ? { ...target, minimum, maximum } : target)) })
              }
            />
            <TabbedPanel
              title="This blend"
              selected={tab}
              onSelect={setTab}
              tabs={[
                {
                  id: 'why',
                  label: 'Why',
                  content: (
                    <ul className={classes.advice} data-testid="why">
                      {solution?.why.map((line) => (
                        <li key={line}>{line}</li>
                      ))}
                    </ul>
                  ),
                },
                { id: 'choice', label: 'The choice', content: <Choice question={settled} picked={picked} onPick={setPicked} /> },
              ]}
            />
          </div>
          <div className={columns.column}>
            <ChainMap reference={before} referenceName={before && 'the bar so far'} />
            {result && <CompositionChanges before={before} after={result} cost={resultPicked === null ? solution?.cost.per_kg : null} lyeIsKnown={lyeIsKnown} />}
            {result && (
              <Panel title="What to know">
                <ul className={classes.advice}>
                  {solution?.diagnostics.length === 0 && <li>Nothing.</li>}
                  {solution?.diagnostics.map((one) => (
                    <li key={one.code + one.path + JSON.stringify(one.params)}>
                      <strong><Sentence>{one.message}</Sentence></strong> <Sentence>{one.reason}</Sentence>
                    </li>
                  ))}
                </ul>
              </Panel>
            )}
          </div>
        </div>
        <ExplanationDrawer quantity={quantity} formula={resultPicked === null ? (solution?.formula ?? null) : picked} stale={isStale} onClose={() => setQuantity(null)} />
      </div>
    </ResultContext>
  );
}
