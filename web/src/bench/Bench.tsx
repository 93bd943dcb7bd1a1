import { VisuallyHidden } from '@mantine/core';
import { useDebouncedValue, useDocumentTitle, useHotkeys } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useDeferredValue, useEffect, useMemo, useState } from 'react';
import { useNavigate, useParams } from 'react-router';

import { answered, api } from '../api/client';
import { at, useDefinitions, useKeptReport, useOilsAndMaterials, useResultOf, useReference, useVersions } from '../api/queries';
import type { FormulaRecord, FormulaResult, KeptFormulaReport, OilSummary, OwnMaterial } from '../api/types';
import { useCommands, type Command } from '../app/commands';
import { ConflictDialog } from '../sync/ConflictDialog';
import { StayGuard } from '../sync/StayGuard';
import { ResultContext } from '../design/scales/ResultContext';
import { Later, later, useTurn } from '../design/Later';
import { HatchDefs } from '../design/HatchDefs';
import { useIsPhone } from '../design/phone';
import { formatNumber } from '../design/quantity';
import { useSettings } from '../app/settings';
import { useTellFailure } from '../app/showFailure';
import { WithFormula } from '../app/WithFormula';
import { FOCUS_ADD_OIL } from './AddOil';
import classes from '../design/columns.module.css';
import { AdvicePanel } from './bar/Advice';
import layout from './Bench.module.css';
import { BenchBar } from './BenchBar';
import { BenchContext } from './BenchContext';
import { BenchHeader, ComparedWith, FormulaChips } from './BenchHeader';
import { BlendPanel } from './BlendPanel';
import { KeepVersionDialog } from './dialogs';
import { addOil } from './edits';
import { LAST_FORMULA } from './lastFormula';
import { Loaf } from './Loaf';
import { OilDrag } from './OilDrag';
import { useDraft } from './useDraft';
import { useResult, type LiveResult } from './useResult';
import { useShown } from '../design/units';

const furtherDown = () => import('./furtherDown');
const CompositionPanel = later(420, async () => (await furtherDown()).CompositionPanel);
const BarPanel = later(170, async () => (await furtherDown()).BarPanel);
const ChainMap = later(330, async () => (await furtherDown()).ChainMap);
const BenchScales = later(480, async () => (await furtherDown()).BenchScales);
const ExplanationDrawer = later(0, async () => (await furtherDown()).ExplanationDrawer);

/** The bench of one formula, loaded by the id in the address; what can be said of it is asked for with it, so that both are drawn
    at once. */
export function Bench() {
  const { formulaId = '' } = useParams();
  const { weightUnit } = useSettings();
  // Another unit later on is a question of the open bench.
  const [unit] = useState(weightUnit.id);
  const { data: report, isLoading } = useKeptReport(formulaId, unit);
  const inUnit = unit === weightUnit.id ? report : undefined;
  return <WithFormula isReady={!isLoading}>{(record) => <OpenBench loaded={record} report={inUnit} />}</WithFormula>;
}

interface OpenBenchProps {
  loaded: FormulaRecord;
  /** What was said of it, in the unit of the screen; it may be of another revision, or missing. */
  report?: KeptFormulaReport;
}

function OpenBench({ loaded, report }: OpenBenchProps) {
  const draft = useDraft(loaded);
  const { weightUnit } = useSettings();
  const isOfThis = draft.formula === loaded.formula && report?.revision === loaded.revision;
  const live = useResult(draft.formula, weightUnit.id, Object.keys(draft.unread).length > 0, isOfThis ? report : null);
  const oilList = useOilsAndMaterials();
  const { materials } = draft.formula;
  const oils = useMemo(
    () => new Map([...materials.map(unshelved), ...oilList].map((oil) => [oil.id, oil])),
    [materials, oilList],
  );
  const [quantity, setQuantity] = useState<string | null>(null);
  const bench = useMemo(() => ({ draft, live, oils, explain: setQuantity }), [draft, live, oils]);
  // What was never calculated cannot be out of date.
  const isStale = live.result !== null && (live.freshness === 'stopped' || live.freshness === 'unreachable');
  // Before there is a result, the pictures show what is entered so far.
  const { preview } = live;
  const shown = useMemo(
    () => (preview === null ? { result: live.result, yourBars: live.yourBars, isStale, explain: setQuantity } : { result: preview, isStale: false, explain: setQuantity }),
    [live.result, live.yourBars, preview, isStale],
  );
  // The lye is painted first, the pictures a blink later.
  const pictured = useDeferredValue(shown);
  const { versions, against, setAgainst, reference } = useComparison(draft.record.id);
  const actions = useFormulaActions(draft);
  const referenceName = reference && against !== null ? `version ${against}` : null;
  useEffect(() => localStorage.setItem(LAST_FORMULA, loaded.id), [loaded.id]);
  useDocumentTitle(`${draft.formula.name} · Sapolin`);
  useBenchCommands(draft, actions.askToKeep);
  const isPhone = useIsPhone();
  const chips = (
    <FormulaChips
      versions={versions}
      onKeepVersion={actions.askToKeep}
      onReturnTo={(version) => void actions.returnTo(version.number)}
    />
  );

  return (
    <BenchContext value={bench}>
      <OilDrag>
        <HatchDefs />
        <div className={classes.page}>
          <VisuallyHidden component="h1">{draft.formula.name}, design</VisuallyHidden>
          <BenchHeader
            onKeepVersion={actions.askToKeep}
            onDuplicate={() => void actions.duplicate()}
            onDelete={() => void actions.archive()}
          />
          {isPhone && chips}
          <BenchBar>{!isPhone && chips}</BenchBar>
          <ResultContext value={pictured}>
            <div className={`${classes.columns} ${layout.columns}`}>
              <div className={`${classes.column} ${layout.column}`}>
                <div className={layout.blend}>
                  <BlendPanel />
                </div>
                <div className={layout.composition}>
                  <CompositionPanel />
                </div>
              </div>
              <div className={`${classes.column} ${layout.column}`}>
                <div className={layout.loaf}>{isPhone ? <Later height={390}><Loaf /></Later> : <Loaf />}</div>
                <div className={layout.bar}>
                  <BarPanel />
                </div>
                <div className={layout.map}>
                  <ChainMap reference={reference} referenceName={referenceName} />
                </div>
              </div>
              <div className={`${classes.column} ${layout.column}`}>
                <div className={layout.advice}>
                  <AdvicePanel />
                </div>
                <div className={layout.scales}>
                  <BenchScales
                    reference={reference}
                    referenceName={referenceName}
                    compared={versions.length > 0 && <ComparedWith versions={versions} against={against} setAgainst={setAgainst} />}
                  />
                </div>
              </div>
            </div>
          </ResultContext>
        </div>
        <Announcer live={live} />
        <ExplanationDrawer
          quantity={quantity}
          formula={live.of}
          stale={live.freshness !== 'fresh' && live.freshness !== 'pending'}
          yours={live.yourBars.find((one) => one.quality === quantity)}
          onClose={() => setQuantity(null)}
        />
        <KeepVersionDialog
          opened={actions.isKeeping}
          nextNumber={draft.record.latest_version + 1}
          onClose={actions.stopKeeping}
          onKeep={actions.keep}
        />
        <StayGuard when={draft.isLosable} what={`What was changed of “${draft.formula.name}”`} />
        <ConflictDialog
          opened={draft.save.kind === 'conflict'}
          name={draft.record.formula.name}
          copyLabel="Keep mine as a formula of its own"
          load={() => answered(api.GET('/api/formulas/{formula_id}', at(draft.record.id)))}
          onCopy={actions.keepCopy}
          onTheirs={draft.takeTheirs}
          onMine={draft.keepMine}
        />
      </OilDrag>
    </BenchContext>
  );
}

/** A material that came with the formula, until the shelf knows better: a formula read from a file brings its own. */
function unshelved(material: OwnMaterial): OilSummary {
  const { id, name, notes, allergens, palm_derived, vegan } = material;
  const solid = 'solid_at_20_c' in material.content && material.content.solid_at_20_c;
  const plain = { synonyms: [], group: 'short', cautions: '', sap_koh_mg_per_g: 0, own: true, ruled_out: {} };
  return { ...plain, id, name, jobs: notes, allergens, palm_derived, vegan, hard: solid };
}

/** The kept version that today's bar is compared with: the newest, unless another or none is chosen. */
function useComparison(formulaId: string) {
  const { data: versions = [] } = useVersions(formulaId);
  const [chosen, setAgainst] = useState<number | null | 'newest'>('newest');
  const against = chosen === 'newest' ? (versions[0]?.number ?? null) : chosen;
  const formula = versions.find((version) => version.number === against)?.formula ?? null;
  const isTime = useTurn();
  const reference = useResultOf(isTime ? formula : null) ?? null;
  return { versions, against, setAgainst, reference };
}

type Draft = ReturnType<typeof useDraft>;

function useFormulaActions(draft: Draft) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const [isKeeping, setKeeping] = useState(false);
  const { saved, versioned } = draft;
  const formulaId = draft.record.id;

  const attempt = async (act: () => Promise<void>) => {
    try {
      await act();
    } catch (error) {
      tellFailure(error);
    }
  };
  const open = (record: FormulaRecord) => void navigate(`/formulas/${record.id}`);
  return {
    isKeeping,
    askToKeep: useCallback(() => setKeeping(true), []),
    stopKeeping: useCallback(() => setKeeping(false), []),
    open,
    keep: (note: string) =>
      attempt(async () => {
        const { revision } = await saved();
        const version = await answered(
          api.POST('/api/formulas/{formula_id}/versions', {
            ...at(formulaId),
            body: { revision, note },
          }),
        );
        versioned(version.number);
        await client.invalidateQueries({ queryKey: ['versions', formulaId] });
        setKeeping(false);
        notifications.show({ message: `Version ${version.number} is kept.` });
      }),
    keepCopy: async () => {
      const name = `${draft.formula.name.slice(0, 108)} (my copy)`;
      const copy = await answered(api.POST('/api/formulas', { body: { ...draft.formula, name } }));
      // What was done here is in the copy now.
      draft.takeTheirs(await answered(api.GET('/api/formulas/{formula_id}', at(formulaId))));
      open(copy);
    },
    returnTo: (number: number) =>
      attempt(async () => {
        const { revision } = await saved();
        const { record, draft_version: left } = await answered(
          api.POST('/api/formulas/{formula_id}/versions/{number}/return', {
            params: { path: { formula_id: formulaId, number } },
            body: { revision },
          }),
        );
        draft.takeTheirs(record);
        await client.invalidateQueries({ queryKey: ['versions', formulaId] });
        const kept = left ? ` What was here is kept as version ${left.number}.` : '';
        notifications.show({ message: `Back at version ${number}.${kept}` });
      }),
    duplicate: () =>
      attempt(async () => {
        await saved();
        const name = `${draft.formula.name.slice(0, 112)} (copy)`;
        open(await answered(api.POST('/api/formulas/{formula_id}/duplicate', { ...at(formulaId), body: { name } })));
      }),
    archive: () =>
      attempt(async () => {
        await saved();
        await answered(api.DELETE('/api/formulas/{formula_id}', at(formulaId)));
        void navigate('/formulas', { state: { archive: { id: formulaId, name: draft.formula.name } } });
      }),
  };
}

function useBenchCommands(draft: Draft, keepVersion: () => void) {
  const { edit, undo, redo, saveNow } = draft;
  const navigate = useNavigate();
  const formulaId = draft.record.id;
  const oils = useOilsAndMaterials();
  const definitionsOf = useDefinitions();
  const { purposes } = useReference();
  const { letterShortcuts } = useSettings();
  const commands = useMemo<Command[]>(
    () => [
      { id: 'undo', group: 'Bench', label: 'Undo', keys: 'mod+Z', run: undo },
      { id: 'redo', group: 'Bench', label: 'Redo', keys: 'mod+shift+Z', run: redo },
      { id: 'save', group: 'Bench', label: 'Save now', keys: 'mod+S', run: saveNow },
      { id: 'keep', group: 'Bench', label: 'Keep as a version', keys: 'mod+shift+S', run: keepVersion },
      {
        id: 'add',
        group: 'Bench',
        label: 'Add an oil',
        keys: 'A',
        run: () => window.dispatchEvent(new Event(FOCUS_ADD_OIL)),
      },
      ...purposes.map((purpose) => ({
        id: `purpose-${purpose.id}`,
        group: 'Purpose',
        label: `For ${purpose.name.toLowerCase()}`,
        description: purpose.summary,
        run: () => edit((now) => ({ ...now, purpose: purpose.id })),
      })),
      ...oils.map((oil) => ({
        id: `oil-${oil.id}`,
        group: 'Add an oil',
        label: `Add ${oil.name}`,
        description: oil.jobs,
        run: () => edit((now) => (now.blend.lines.some((line) => line.oil === oil.id) ? now : addOil(now, oil.id, null, definitionsOf(oil.id)))),
      })),
      {
        id: 'swap',
        group: 'Bench',
        label: 'Swap an oil',
        description: 'See replacements when an oil has to go',
        run: () => void navigate(`/formulas/${formulaId}/swap`),
      },
      { id: 'row-next', group: 'In the blend', label: 'Next or previous oil', keys: 'Enter' },
      { id: 'row-step', group: 'In the blend', label: 'Half a point up or down', keys: 'ArrowUp' },
      { id: 'row-hold', group: 'In the blend', label: 'Lock or unlock', keys: 'alt+H' },
      { id: 'row-move', group: 'In the blend', label: 'Move the oil', keys: 'alt+ArrowUp' },
      { id: 'row-remove', group: 'In the blend', label: 'Take the oil out', keys: 'mod+Delete' },
    ],
    [undo, redo, saveNow, keepVersion, edit, oils, definitionsOf, purposes, navigate, formulaId],
  );
  useCommands('bench', commands);
  const run = (id: string) => () => commands.find((command) => command.id === id)?.run?.();
  // These two work inside fields too.
  useHotkeys(
    [
      ['mod+S', run('save')],
      ['mod+shift+S', run('keep')],
    ],
    [],
  );
  // In a field it is the text that is undone, by the browser.
  useHotkeys([
    ['mod+Z', run('undo')],
    ['mod+shift+Z', run('redo')],
    ['mod+Y', run('redo')],
  ]);
  useHotkeys(letterShortcuts ? [['A', run('add')]] : []);
}

function lyeInWords(weights: FormulaResult['weights'], unit: string): string {
  const lyes = [
    ['NaOH', weights.naoh],
    ['KOH', weights.koh],
  ] as const;
  return lyes
    .filter(([, weight]) => weight > 0)
    .map(([name, weight]) => `${name} ${formatNumber(weight, weights.lye_decimals)} ${unit}, `)
    .join('');
}

/** Tells screen readers what a change did, once things have settled. */
function Announcer({ live }: { live: LiveResult }) {
  const { weightUnit } = useSettings();
  const shown = useShown();
  const { result, freshness, problems, advice } = live;
  let words = '';
  if (freshness === 'fresh' && result) {
    const { weights } = result;
    words =
      lyeInWords(weights, weightUnit.name) +
      `water ${formatNumber(weights.water, weights.decimals)}. ` +
      advice.map((one) => shown(one.message)).join(' ');
  } else if (freshness === 'stopped') {
    words = problems.map((problem) => shown(problem.message)).join(' ');
  }
  const [settled] = useDebouncedValue(words, 700);
  return (
    <VisuallyHidden role="status" aria-live="polite">
      {settled}
    </VisuallyHidden>
  );
}
