import { Button } from '@mantine/core';
import { useDocumentTitle, useHotkeys } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';

import { answered, api } from '../api/client';
import { calculate, useOilsAndMaterials, useReference } from '../api/queries';
import type { Formula, FormulaRecord, SwapCandidate } from '../api/types';
import columns from '../design/columns.module.css';
import { ChainMap } from '../design/scales/ChainMap';
import { ResultContext } from '../design/scales/ResultContext';
import { CompositionChanges } from '../design/scales/CompositionChanges';
import { QualityScales } from '../design/scales/QualityScales';
import { HatchDefs } from '../design/HatchDefs';
import { Missing } from '../app/Missing';
import { Panel } from '../design/Panel';
import { Refused } from '../design/Refused';
import { useTellFailure } from '../app/showFailure';
import { Sentence } from '../design/Sentence';
import { useWeights } from '../design/units';
import { useKeepAsVersion } from '../sync/useKeepAsVersion';
import { Pending } from '../app/Pending';
import { WithFormula } from '../app/WithFormula';
import { ExplanationDrawer } from '../design/ExplanationDrawer';
import { Candidates } from './Candidates';
import { Jobs } from './Jobs';
import { Levers } from './Levers';
import { asking, inWords, type Asked } from './question';
import classes from './Swap.module.css';
import { SwapHeader } from './SwapHeader';
import { YearlySaving } from './YearlySaving';


/** Take an oil out of a formula and see, before anything is changed, which replacements there are. */
export function Swap() {
  return (
    <WithFormula>
      {(record) =>
        record.formula.blend.lines.length === 0 ? (
          <Missing title="There is nothing to swap yet" message="Give the formula its oils first, in Design." />
        ) : (
          <BegunSwap key={`${record.id}-${record.revision}`} record={record} />
        )
      }
    </WithFormula>
  );
}

function BegunSwap({ record }: { record: FormulaRecord }) {
  const [params] = useSearchParams();
  const [out] = useState(() => params.get('out'));
  const { data: first, error } = useQuery({
    queryKey: ['swap-start', record.id, record.revision, out],
    queryFn: () => answered(api.POST('/api/swap/start', { body: record.formula, params: { query: out === null ? {} : { out } } })),
    staleTime: Infinity,
    gcTime: 0,
  });
  if (error !== null) return <Refused error={error} />;
  return first === undefined ? <Pending /> : <OpenSwap record={record} first={first} isNamed={out !== null} />;
}

function OpenSwap({ record, first, isNamed }: { record: FormulaRecord; first: Asked; isNamed: boolean }) {
  const oils = useOilsAndMaterials();
  const { free_of: words, test_batch_oils_g: testBatchG } = useReference();
  const [asked, setAsked] = useState<Asked>(first);
  // Which oil goes was not said yet: the first one chosen takes the place of the guess, and is not added to it.
  const [isGuess, setIsGuess] = useState(!isNamed);
  const [chosen, setChosen] = useState(0);
  const [pulled, setPulled] = useState<Formula | null>(null);
  const weights = useWeights();
  const [quantity, setQuantity] = useState<string | null>(null);
  useDocumentTitle(`Swap in ${record.formula.name} · Sapolin`);
  const question = useMemo(() => ({ ...asked, formula: record.formula }), [asked, record.formula]);
  const { data, error, isFetching } = useQuery({
    queryKey: ['swap', question],
    // A question that another has taken the place of is closed, and the server stops answering it.
    queryFn: ({ signal }) => answered(api.POST('/api/swap', { body: question, signal })),
    placeholderData: (previous) => previous,
    retry: false,
  });
  // A question that is refused leaves the last answer standing, marked as such, and everything typed in its place.
  const [answer, setAnswer] = useState(data);
  if (data !== undefined && data !== answer) setAnswer(data);
  const candidate = answer?.candidates[chosen] ?? answer?.candidates[0];
  const { data: afterLevers } = useQuery({
    queryKey: ['result', pulled],
    queryFn: async () => (pulled ? (await calculate(pulled, 'g')).result : null),
    enabled: pulled !== null,
    placeholderData: (previous) => previous,
  });
  const formula = pulled ?? candidate?.formula ?? null;
  const result = (pulled === null ? candidate?.result : (afterLevers ?? candidate?.result)) ?? null;
  const isStale = isFetching || error !== null;
  const shown = useMemo(() => ({ result, isStale, explain: setQuantity }), [result, isStale]);
  const accept = useAccept(record, formula, candidate, asked);
  useHotkeys([['mod+Enter', () => void accept.keep()]], []);

  const ask = (change: Partial<Asked>) => {
    if (change.outgoing !== undefined) setIsGuess(false);
    setAsked((now) => asking(now, change, oils, words));
    setChosen(0);
    setPulled(null);
  };
  const before = answer?.before ?? null;

  return (
    <ResultContext value={shown}>
      <HatchDefs />
      <div className={columns.page}>
        <SwapHeader
          record={record}
          asked={asked}
          isGuess={isGuess}
          onAsk={ask}
          canKeep={formula !== null && !isStale}
          onKeep={() => void accept.keep()}
        />
        {error !== null && <Refused error={error} />}
        <div className={columns.columns}>
          <div className={columns.column}>
            {answer && (
              <Jobs
                answer={answer}
                outgoing={asked.outgoing}
                onKeep={(oil, keep_percent) =>
                  ask({ outgoing: asked.outgoing.map((out) => (out.oil === oil ? { oil, keep_percent } : out)) })
                }
              />
            )}
            {answer && (
              <Candidates
                answer={answer}
                chosen={chosen}
                isStale={isStale}
                onChoose={(index) => {
                  setChosen(index);
                  setPulled(null);
                }}
              />
            )}
          </div>
          <div className={columns.column}>
            <QualityScales title="Before and after" reference={before} referenceName="before" sideBySide />
            <ChainMap reference={before} referenceName="before" />
          </div>
          <div className={columns.column}>
            {before && result && <CompositionChanges before={before} after={result} cost={candidate?.cost.per_kg} costBefore={answer?.cost_before.per_kg} />}
            <YearlySaving formulaId={record.id} before={answer?.cost_before.per_kg ?? null} after={candidate?.cost.per_kg ?? null} />
            {candidate && formula && (
              <Levers before={record.formula} formula={formula} pulled={pulled !== null} onPull={setPulled} />
            )}
            {candidate && (
              <Panel title="In words">
                <div className={classes.words} aria-live="polite" data-testid="swap-words">
                  <p><Sentence>{answer?.words}</Sentence></p>
                  {candidate.words.map((sentence, i) => (
                    <p key={i}>
                      <Sentence>{sentence}</Sentence>
                    </p>
                  ))}
                </div>
                <Button className={classes.test} size="compact-md" onClick={() => void accept.testBatch(testBatchG)} data-testid="test-batch">
                  Make it a {weights.tell(testBatchG)} test formula
                </Button>
              </Panel>
            )}
          </div>
        </div>
        <ExplanationDrawer quantity={quantity} formula={formula} stale={isStale} onClose={() => setQuantity(null)} />
      </div>
    </ResultContext>
  );
}

function useAccept(record: FormulaRecord, formula: Formula | null, candidate: SwapCandidate | undefined, asked: Asked) {
  const weights = useWeights();
  const { choices } = useReference();
  const navigate = useNavigate();
  const oils = useOilsAndMaterials();
  const keepAsVersion = useKeepAsVersion(record);
  const tellFailure = useTellFailure();
  const note = candidate ? inWords(candidate, asked, record.formula, oils, choices.reason ?? []) : '';
  const attempt = async (act: () => Promise<void>) => {
    try {
      await act();
    } catch (error) {
      tellFailure(error);
    }
  };
  return {
    keep: async () => {
      if (formula !== null) await keepAsVersion(formula, note);
    },
    testBatch: (oils_g: number) =>
      attempt(async () => {
        if (formula === null) return;
        const name = `${record.formula.name.slice(0, 90)}, test of ${candidate?.incoming[0]?.name.toLowerCase() ?? 'a swap'}`;
        const notes = `${note}\nMake it beside the bar as it was, and compare after the cure.`;
        const small = { ...formula, name, notes, blend: { ...formula.blend, total_oils_g: oils_g } };
        const created = await answered(api.POST('/api/formulas', { body: small }));
        notifications.show({ message: `“${name}” is ready at ${weights.tell(oils_g)} of oils.` });
        void navigate(`/formulas/${created.id}`);
      }),
  };
}
