import { Switch, TextInput } from '@mantine/core';
import { useDocumentTitle } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import { useReference } from '../api/queries';
import { keyCaps, useOffered } from '../app/commands';
import { useSettings } from '../app/settings';
import { Panel } from '../design/Panel';
import heads from '../design/heads.module.css';
import classes from './Guide.module.css';
import { WorkshopSettings } from './WorkshopSettings';

/** What the words mean, which keys there are, and how this workshop works. */
export function Guide() {
  const [search, setSearch] = useState('');
  const { data: terms = [] } = useQuery({
    queryKey: ['glossary'],
    queryFn: () => answered(api.GET('/api/glossary')),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const { qualities } = useReference();
  const { letterShortcuts, setLetterShortcuts } = useSettings();
  const keyed = useOffered().filter((command) => command.keys !== undefined);
  useDocumentTitle('Guide · Sapolin');
  const wanted = search.toLowerCase().split(/\s+/).filter(Boolean);
  const found = terms.filter((one) => wanted.every((word) => `${one.term} ${one.meaning}`.toLowerCase().includes(word)));
  const groups = [...new Set(found.map((one) => one.group))];
  return (
    <div className={classes.page}>
      <div className={heads.top}>
        <h1>Guide</h1>
        <TextInput
          value={search}
          onChange={(event) => setSearch(event.currentTarget.value)}
          placeholder="Search the words"
          aria-label="Search the glossary"
          type="search"
        />
      </div>
      <div className={classes.columns}>
        <Panel title="Words" aside={`${found.length}`}>
          {found.length === 0 && <p className="muted">No such word here.</p>}
          {groups.map((group) => (
            <section key={group} className={classes.group}>
              <h3>{group}</h3>
              <dl>
                {found
                  .filter((one) => one.group === group)
                  .map((one) => (
                    <div key={one.id} id={one.id}>
                      <dt>{one.term}</dt>
                      <dd>{one.meaning}</dd>
                    </div>
                  ))}
              </dl>
            </section>
          ))}
        </Panel>
        <div className={classes.side}>
          <section aria-labelledby="your-workshop">
            <h2 id="your-workshop">Your workshop</h2>
            <WorkshopSettings />
          </section>
          <Panel title="Qualities of a bar" aside="estimates from the fatty acids">
            <dl>
              {qualities.map((quality) => (
                <div key={quality.id}>
                  <dt>{quality.name}</dt>
                  <dd>
                    {quality.in_short} Raised by {quality.raised_by}; lowered by {quality.lowered_by}.
                  </dd>
                </div>
              ))}
            </dl>
          </Panel>
          <Panel title="Keys">
            <dl className={classes.keys}>
              {keyed.map((command) => (
                <div key={command.id}>
                  <dt>{command.label}</dt>
                  <dd>
                    {keyCaps(command.keys ?? '').map((cap) => (
                      <kbd key={cap}>{cap}</kbd>
                    ))}
                  </dd>
                </div>
              ))}
            </dl>
            <p className="muted">Each screen has more: press ? on it.</p>
            <Switch
              checked={letterShortcuts}
              onChange={(event) => setLetterShortcuts(event.currentTarget.checked)}
              label="Single-key shortcuts (A, ?)"
            />
          </Panel>
        </div>
      </div>
    </div>
  );
}
