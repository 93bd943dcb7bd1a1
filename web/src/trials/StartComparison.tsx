import { Autocomplete, Button, MultiSelect, SegmentedControl, TagsInput } from '@mantine/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';

import { answered, api, ApiFailure } from '../api/client';
import type { TestsView } from '../api/types';
import { Amount } from '../cure/Amount';
import { Dialog } from '../design/Dialog';
import { Asked } from '../cure/Asked';

const QUESTIONS = ['Which lathers better?', 'Which leaves the skin softer?', 'Which rinses better?', 'Which is firmer?', 'Which smells better?', 'Which would you buy?'];

/** Draw up a blind comparison of this batch with others that are fit to use. */
export function StartComparison({ tests, onClose }: { tests: TestsView; onClose: () => void }) {
  const navigate = useNavigate();
  const { data } = useQuery({
    queryKey: ['batches', 'fit'],
    queryFn: () => answered(api.GET('/api/batches', { params: { query: { status: ['made'], limit: 200 } } })),
  });
  const fit = (data?.batches ?? []).filter((one) => one.cure?.fit === 'fit' && (one.cure.here ?? 0) > 0 && one.id !== tests.batch_id);
  const [question, setQuestion] = useState(QUESTIONS[0] ?? '');
  const [others, setOthers] = useState<string[]>([]);
  const [testers, setTesters] = useState<string[]>(tests.testers.slice(0, 2));
  const [rounds, setRounds] = useState<number | null>(6);
  const [atOnce, setAtOnce] = useState('2');
  const start = useMutation({
    mutationFn: () =>
      answered(
        api.POST('/api/comparisons', {
          body: { question: question.trim(), bars: [tests.batch_id, ...others].map((batch_id) => ({ batch_id, label: '' })), at_once: atOnce === '3' ? 3 : 2, rounds: rounds ?? 0, testers },
        }),
      ),
    onSuccess: (made) => void navigate(`/comparisons/${made.id}`),
  });
  const problem = start.error instanceof ApiFailure ? (start.error.problems[0] ?? null) : null;
  const isWhole = question.trim() !== '' && others.length > 0 && testers.length > 0 && rounds !== null;
  return (
    <Dialog opened onClose={onClose} title="Compare blind">
      <Autocomplete label="What is asked" value={question} onChange={setQuestion} data={QUESTIONS} maxLength={120} />
      <MultiSelect
        label={`${tests.code} beside`}
        placeholder={others.length === 0 ? (fit.length === 0 ? 'No other batch is fit to use yet' : 'Choose a batch') : undefined}
        data={fit.map((one) => ({ value: one.id, label: `${one.code} ${one.name}` }))}
        value={others}
        onChange={setOthers}
        maxValues={5}
        searchable
        data-testid="compare-with"
      />
      <TagsInput label="Who judges" description="Each name, then Enter" value={testers} onChange={setTesters} maxTags={12} data-testid="compare-testers" />
      <Amount label="Rounds for each of them; six tell a clear difference" value={{ value: rounds }} onChange={(typed) => setRounds(typed.value)} testId="compare-rounds" />
      {others.length > 1 && <SegmentedControl mt={10} fullWidth value={atOnce} onChange={setAtOnce} data={[{ value: '2', label: 'two at a time' }, { value: '3', label: 'three at a time' }]} aria-label="How many at a time" />}
      <Asked problem={problem} />
      {start.error !== null && problem === null && <p role="alert">{start.error.message}</p>}
      <Button mt={14} size="lg" variant="filled" fullWidth disabled={!isWhole} loading={start.isPending} onClick={() => start.mutate()} data-testid="draw-codes">
        Draw the codes
      </Button>
    </Dialog>
  );
}
