import { TextInput } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import { Panel } from '../design/Panel';
import classes from './Guide.module.css';
import { GuideHead } from './GuideHead';

/** What the words mean. */
export function Words() {
  const [search, setSearch] = useState('');
  const { data: terms = [] } = useQuery({
    queryKey: ['glossary'],
    queryFn: () => answered(api.GET('/api/glossary')),
    staleTime: Number.POSITIVE_INFINITY,
  });
  useDocumentTitle('Words · Sapolin');
  const wanted = search.toLowerCase().split(/\s+/).filter(Boolean);
  const found = terms.filter((one) => wanted.every((word) => `${one.term} ${one.meaning}`.toLowerCase().includes(word)));
  const groups = [...new Set(found.map((one) => one.group))];
  return (
    <div className={classes.page}>
      <GuideHead>Words</GuideHead>
      <TextInput value={search} onChange={(event) => setSearch(event.currentTarget.value)} placeholder="Search the words" aria-label="Search the glossary" type="search" mb={12} maw={360} />
      {found.length === 0 && <p className="muted">No such word here.</p>}
      <div className={classes.flow}>
        {groups.map((group) => (
          <Panel key={group} title={group}>
            <dl className={classes.terms}>
              {found
                .filter((one) => one.group === group)
                .map((one) => (
                  <div key={one.id} id={one.id}>
                    <dt>{one.term}</dt>
                    <dd>{one.meaning}</dd>
                  </div>
                ))}
            </dl>
          </Panel>
        ))}
      </div>
    </div>
  );
}
