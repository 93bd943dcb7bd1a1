import { Autocomplete, Button, SegmentedControl, Textarea } from '@mantine/core';
import { useLocalStorage } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import type { Diagnostic, TestsView } from '../api/types';
import { Asked } from '../cure/Asked';
import { Amount } from '../cure/Amount';
import { EMPTY as EMPTY_AMOUNT, type Typed } from '../cure/typed';
import type { CureEvent, Recorded } from '../cure/useCure';
import { Panel } from '../design/Panel';
import { useTemperature } from '../design/temperature';
import { OwnCriterion } from './OwnCriterion';
import classes from './Trials.module.css';
import { WordScale } from './WordScale';

type Judged = Extract<CureEvent, { kind: 'judged' }>;
type Part = 'short' | 'whole' | 'later';

interface Draft {
  tester: string;
  part: Part;
  scores: Record<string, number>;
  measures: Record<string, Typed>;
  way: Judged['way'];
  wetting: Judged['wetting'];
  water: Judged['water'];
  water_c: Typed;
  text: string;
}

const EMPTY: Draft = { tester: '', part: 'short', scores: {}, measures: {}, way: 'hand', wetting: 'first', water: 'unknown', water_c: EMPTY_AMOUNT, text: '' };
const PARTS = [
  { value: 'short', label: 'Short' },
  { value: 'whole', label: 'Whole sheet' },
  { value: 'later', label: 'An hour later' },
];

interface ScoreSheetProps {
  tests: TestsView;
  record: (event: CureEvent) => Promise<Recorded>;
}

/** Judge a bar in anchored words. What is chosen stays on this device until it is recorded. */
export function ScoreSheet({ tests, record }: ScoreSheetProps) {
  const client = useQueryClient();
  const temperature = useTemperature();
  const [draft, setDraft] = useLocalStorage<Draft>({ key: `sapolin:sheet:${tests.batch_id}`, defaultValue: EMPTY, getInitialValueInEffect: false });
  const [problem, setProblem] = useState<Diagnostic | null>(null);
  const set = (change: Partial<Draft>) => {
    setProblem(null);
    setDraft((now) => ({ ...now, ...change }));
  };
  const tester = draft.tester || tests.testers[0] || '';
  const shown = tests.criteria.filter((one) => (draft.part === 'short' ? one.short : draft.part === 'later' ? one.part === 'later' : one.part !== 'later'));
  const measured = draft.part === 'whole' ? tests.measures : [];
  const chosen = Object.fromEntries(Object.entries(draft.scores).filter(([id]) => shown.some((one) => one.id === id)));
  const typed = Object.entries(draft.measures).filter(([id]) => measured.some((one) => one.id === id));
  const entered = Object.fromEntries(typed.flatMap(([id, { value }]) => (value === null ? [] : [[id, value]])));
  const isUnread = typed.some(([, { unread }]) => unread !== undefined) || draft.water_c.unread !== undefined;
  const isEmpty = Object.keys(chosen).length + Object.keys(entered).length === 0;
  const keep = async () => {
    const { way, wetting, water, water_c: warmth, text } = draft;
    const sent = await record({ kind: 'judged', tester: tester.trim(), scores: chosen, measures: entered, way, wetting, water, water_c: warmth.value === null ? null : temperature.letter === 'F' ? (warmth.value - 32) / 1.8 : warmth.value, text: text.trim() });
    if (!sent.ok) {
      setProblem(sent.problem);
      return;
    }
    set({ tester, scores: {}, measures: {}, text: '', part: draft.part === 'later' ? 'short' : 'later' });
    notifications.show({ message: draft.part === 'later' ? 'Recorded.' : 'Recorded. Next: the skin, an hour from now.' });
    void client.invalidateQueries({ queryKey: ['tests'] });
    void client.invalidateQueries({ queryKey: ['learning'] });
    void client.invalidateQueries({ queryKey: ['trial'] });
  };
  return (
    <Panel title="Judge a bar" aside={draft.part === 'short' ? 'under a minute' : draft.part === 'later' ? 'nothing put on the skin since' : 'same water, same hands'}>
      <div className={classes.who}>
        <Autocomplete label="Who judges" value={tester} onChange={(next) => set({ tester: next })} data={[...tests.testers]} maxLength={40} data-testid="tester" />
        <SegmentedControl value={draft.part} onChange={(part) => set({ part: part as Part })} data={PARTS} aria-label="Which sheet" fullWidth data-testid="sheet-part" />
      </div>
      {shown.map((one) => (
        <WordScale key={one.id} criterion={one} value={draft.scores[one.id] ?? null} onChange={(score) => set({ scores: withScore(draft.scores, one.id, score) })} />
      ))}
      {measured.map((one) => (
        <div key={one.id} className={classes.measure}>
          <Amount
            label={`${one.name}. ${one.asks}`}
            unit={one.unit}
            decimals={1}
            step={0.5}
            value={draft.measures[one.id] ?? EMPTY_AMOUNT}
            onChange={(amount) => set({ measures: { ...draft.measures, [one.id]: amount } })}
            testId={`measure-${one.id}`}
          />
        </div>
      ))}
      {draft.part !== 'later' && (
        <details className={classes.how}>
          <summary>
            How: by {draft.way}, at the {draft.wetting} wetting, water {draft.water === 'unknown' ? 'not told' : draft.water}
          </summary>
          <div className={classes.conditions}>
            <SegmentedControl aria-label="Lather made by" value={draft.way} onChange={(way) => set({ way: way as Draft['way'] })} data={['hand', 'cloth', 'brush']} fullWidth />
            <SegmentedControl aria-label="Wetting" value={draft.wetting} onChange={(wetting) => set({ wetting: wetting as Draft['wetting'] })} data={[{ value: 'first', label: 'first wetting' }, { value: 'second', label: 'second wetting' }]} fullWidth />
            <SegmentedControl aria-label="Water" value={draft.water} onChange={(water) => set({ water: water as Draft['water'] })} data={[{ value: 'soft', label: 'soft' }, { value: 'medium', label: 'medium' }, { value: 'hard', label: 'hard' }, { value: 'unknown', label: 'not told' }]} fullWidth />
            <Amount
              label="Water, as warm as"
              unit={temperature.unit}
              decimals={1}
              value={draft.water_c}
              onChange={(amount) => set({ water_c: amount })}
            />
            <Textarea label="Anything else" value={draft.text} maxLength={500} autosize minRows={1} onChange={(event) => set({ text: event.currentTarget.value })} />
          </div>
        </details>
      )}
      <Asked problem={problem} />
      <Button size="lg" variant="filled" fullWidth mt={10} disabled={isEmpty || isUnread || tester.trim() === ''} onClick={() => void keep()} data-testid="keep-sheet">
        {tester.trim() === '' ? 'Say who judges' : isEmpty ? 'Choose a word' : draft.part === 'later' ? 'Keep' : 'Keep · next: skin an hour later'}
      </Button>
      {draft.part === 'whole' && <OwnCriterion />}
    </Panel>
  );
}

function withScore(scores: Record<string, number>, id: string, value: number | null): Record<string, number> {
  const others = Object.fromEntries(Object.entries(scores).filter(([one]) => one !== id));
  return value === null ? others : { ...others, [id]: value };
}
