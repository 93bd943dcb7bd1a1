import { Popover } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';

import { answered, api } from '../api/client';
import classes from './TermMark.module.css';
import { useOnPress } from './useOnPress';

/** A small mark beside a word of the job; a touch says what it means. */
export function TermMark({ term }: { term: string }) {
  const { data: terms = [] } = useQuery({
    queryKey: ['glossary'],
    queryFn: () => answered(api.GET('/api/glossary')),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const { isWanted, want, opened, setOpened, own } = useOnPress();
  const found = terms.find((one) => one.id === term);
  if (found === undefined) return null;
  const button = { type: 'button', className: classes.mark, 'aria-label': `What is meant by ${found.term}?`, children: '?' } as const;
  if (!isWanted) return <button {...button} onClick={want} aria-haspopup="dialog" aria-expanded={false} />;
  return (
    <Popover width={300} position="bottom" withArrow shadow="md" opened={opened} onChange={setOpened}>
      <Popover.Target>
        <button {...button} ref={own} onClick={() => setOpened(!opened)} onKeyDown={(event) => event.key === 'Escape' && setOpened(false)} />
      </Popover.Target>
      <Popover.Dropdown>
        <strong>{found.term}</strong>
        <p className={classes.meaning}>{found.meaning}</p>
      </Popover.Dropdown>
    </Popover>
  );
}
