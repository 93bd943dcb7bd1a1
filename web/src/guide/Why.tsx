import { useDocumentTitle } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams } from 'react-router';

import { answered, api } from '../api/client';
import type { Formula, GuidePage } from '../api/types';
import { Missing } from '../app/Missing';
import { Pending } from '../app/Pending';
import { LAST_FORMULA } from '../bench/lastFormula';
import buttons from '../design/buttons.module.css';
import columns from '../design/columns.module.css';
import heads from '../design/heads.module.css';
import { formatNumber } from '../design/quantity';
import { Sentence } from '../design/Sentence';
import { useWeights } from '../design/units';
import { FormulaPicker } from '../formulas/FormulaPicker';
import { GuideHead } from './GuideHead';
import classes from './Pages.module.css';

function usePages(): GuidePage[] | undefined {
  const { data } = useQuery({ queryKey: ['guide-pages'], queryFn: () => answered(api.GET('/api/guide/pages')), staleTime: Number.POSITIVE_INFINITY });
  return data;
}

/** Short pages on why soap is as it is. */
export function Why() {
  const pages = usePages();
  useDocumentTitle('Guide · Sapolin');
  if (pages === undefined) return <Pending />;
  const groups = [...new Set(pages.map((page) => page.group_name))];
  return (
    <div className={columns.page}>
      <GuideHead>Guide</GuideHead>
      {groups.map((group) => (
        <section key={group}>
          <h2 className={classes.group}>{group}</h2>
          <ul className={classes.cards}>
            {pages
              .filter((page) => page.group_name === group)
              .map((page) => (
                <li key={page.id}>
                  <Link to={`/guide/why/${page.id}`} className={classes.card} data-testid={`page-${page.id}`}>
                    <b>{page.title}</b>
                    <span>{page.short}</span>
                  </Link>
                </li>
              ))}
          </ul>
        </section>
      ))}
    </div>
  );
}

/** One page, with the reader's own formula as its example. */
export function WhyPage() {
  const { pageId = '' } = useParams();
  const pages = usePages();
  const page = pages?.find((one) => one.id === pageId);
  useDocumentTitle(`${page?.title ?? 'Guide'} · Sapolin`);
  if (pages === undefined) return <Pending />;
  if (page === undefined) return <Missing title="There is no such page" message="The address may have a slip in it." />;
  const at = pages.indexOf(page);
  const next = pages[at + 1];
  return (
    <div className={columns.page}>
      <GuideHead>{page.title}</GuideHead>
      <div className={heads.sides}>
        <article className={classes.page}>
          <p>
            <b>{page.short}</b>
          </p>
          {page.paragraphs.map((words) => (
            <p key={words}>{words}</p>
          ))}
          <p>
            {page.exercise && (
              <>
                <Link to={`/guide/practice/${page.exercise}`} className={buttons.link} data-testid="practise-it">
                  Practise it
                </Link>
                {' · '}
              </>
            )}
            {next && (
              <Link to={`/guide/why/${next.id}`} className={buttons.link}>
                Next: {next.title}
              </Link>
            )}
          </p>
        </article>
        {page.quantity !== null && <Live quantity={page.quantity} />}
      </div>
    </div>
  );
}

/** What the page is about, in a formula of the reader's own. */
function Live({ quantity }: { quantity: string }) {
  const [formulaId, setFormulaId] = useState(() => localStorage.getItem(LAST_FORMULA));
  const weights = useWeights();
  const { data: known } = useQuery({
    queryKey: ['guide-formula', formulaId],
    queryFn: async () => {
      const complete = { query: { state: 'complete' as const, limit: 1 } };
      const id = formulaId ?? (await answered(api.GET('/api/formulas', { params: complete }))).formulas[0]?.id;
      return id === undefined ? null : await answered(api.GET('/api/formulas/{formula_id}', { params: { path: { formula_id: id } } }));
    },
    retry: false,
  });
  const { data, error } = useQuery({
    queryKey: ['explanation', quantity, known?.formula],
    queryFn: () => answered(api.POST('/api/compute/explanation', { body: known?.formula as Formula, params: { query: { quantity } } })),
    enabled: known != null,
    retry: false,
  });
  return (
    <aside className={classes.live} aria-label="In your own formula" data-testid="live">
      <span className="muted">{known ? `In ${known.formula.name}` : 'In your own formula'}</span>
      {data && (
        <>
          <span>{data.name}</span>
          <b data-testid="live-value">
            {data.unit === 'g' ? weights.tell(data.value) : `${formatNumber(data.value, 1)} ${data.unit}`}
          </b>
          <p>
            <Sentence>{data.rule}</Sentence>
          </p>
          <p className="muted">
            <Sentence>{data.substituted}</Sentence>
          </p>
        </>
      )}
      {known === null && <p className="muted">You have no formula yet. Make one, and its numbers stand here.</p>}
      {error !== null && <p className="muted">This formula cannot show it yet: something in it is still to be entered.</p>}
      <FormulaPicker complete testId="live-formula" onPick={setFormulaId}>
        Another formula ▾
      </FormulaPicker>
    </aside>
  );
}
