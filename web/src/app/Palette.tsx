import '@mantine/spotlight/styles.css';

import { Spotlight, spotlight } from '@mantine/spotlight';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';

import { answered, api } from '../api/client';
import own from '../design/mantine.module.css';
import { keyCaps, useOffered } from './commands';
import { OPEN_PALETTE } from './openPalette';
import classes from './Shell.module.css';

const FIRST_COMMANDS = 8;
const MOST_COMMANDS = 24;

const wordsOf = (text: string) => text.toLowerCase().split(/[^\p{L}\p{N}]+/u);

/** Finds formulas, batches and materials on the server, and commands of the present screen. What was found for other words is not
    shown meanwhile: Enter would open it. */
export default function Palette() {
  const [words, setWords] = useState('');
  const commands = useOffered();
  const navigate = useNavigate();
  const { data: found = [], isPending } = useQuery({
    queryKey: ['find', words],
    queryFn: ({ signal }) => answered(api.GET('/api/find', { params: { query: { words } }, signal })),
    staleTime: 5000,
  });
  useEffect(() => {
    spotlight.open();
    window.addEventListener(OPEN_PALETTE, spotlight.open);
    return () => window.removeEventListener(OPEN_PALETTE, spotlight.open);
  }, []);
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const offered = commands
    .filter(
      (command) =>
        command.run !== undefined &&
        // Words begin as typed, and stand in its name: Enter acts on nothing that merely mentions some of the letters.
        wanted.every((word) => wordsOf(`${command.label} ${command.group}`).some((one) => one.startsWith(word))),
    )
    .slice(0, wanted.length > 0 ? MOST_COMMANDS : FIRST_COMMANDS);
  const groups = [...new Set(offered.map((command) => command.group))];
  return (
    <Spotlight.Root
      classNames={{ content: own.floating, action: own.action }}
      shortcut="mod + K"
      tagsToIgnore={[]}
      query={words}
      onQueryChange={setWords}
      scrollable
      maxHeight={460}
    >
      <Spotlight.Search placeholder="A formula, a batch, a material, a command …" aria-label="Find or do" />
      <Spotlight.ActionsList>
        {!isPending && found.length + offered.length === 0 && <Spotlight.Empty>Nothing by that name</Spotlight.Empty>}
        {found.length > 0 && (
          <Spotlight.ActionsGroup label="Open">
            {found.map((one) => (
              <Spotlight.Action
                key={one.address}
                label={one.name}
                description={one.description}
                onClick={() => void navigate(one.address)}
              />
            ))}
          </Spotlight.ActionsGroup>
        )}
        {groups.map((group) => (
          <Spotlight.ActionsGroup key={group} label={group}>
            {offered
              .filter((command) => command.group === group)
              .map((command) => (
                <Spotlight.Action
                  key={command.id}
                  label={command.label}
                  description={command.description}
                  rightSection={
                    command.keys ? <span className={classes.key}>{keyCaps(command.keys).join(' ')}</span> : undefined
                  }
                  onClick={() => command.run?.()}
                />
              ))}
          </Spotlight.ActionsGroup>
        ))}
      </Spotlight.ActionsList>
    </Spotlight.Root>
  );
}
