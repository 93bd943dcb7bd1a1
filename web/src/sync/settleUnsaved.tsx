import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';

import { keepHistory } from './history';
import { forgetUnsaved, isSame, leftUnsaved, type Unsaved } from './unsaved';
import classes from './SavedMark.module.css';

const AGAIN_MS = 5000;

/** Things that are open on this tab look after themselves. */
const open = new Map<string, number>();

export function isOpen(path: string): () => void {
  open.set(path, (open.get(path) ?? 0) + 1);
  return () => {
    const left = (open.get(path) ?? 1) - 1;
    if (left > 0) open.set(path, left);
    else open.delete(path);
  };
}

/** What was left unsaved is saved in the background; what cannot be is named, with the way to it. */
export function UnsavedNotice() {
  const client = useQueryClient();
  const [left, setLeft] = useState<Unsaved[]>([]);
  useEffect(() => {
    let isOver = false;
    const settle = async () => {
      const unsettled: Unsaved[] = [];
      for (const [place, unsaved] of leftUnsaved()) {
        // What is on screen, or about to be, looks after itself.
        if (open.has(unsaved.path) || window.location.pathname === addressOf(unsaved)) continue;
        const revision = await settled(unsaved).catch(() => null);
        if (isOver) return;
        if (revision !== null) {
          // Opened again it can still be undone.
          const { past, content: present, future, unread } = unsaved;
          await keepHistory(unsaved.path.split('/').at(-1) ?? '', revision, { past, present, future, mergeKey: null }, unread);
          forgetUnsaved(unsaved.path, place);
          for (const key of ['formula', 'formulas', 'batch', 'batches']) await client.invalidateQueries({ queryKey: [key] });
        } else unsettled.push(unsaved);
      }
      if (!isOver) setLeft(unsettled);
    };
    void settle();
    const timer = setInterval(() => void settle(), AGAIN_MS);
    return () => {
      isOver = true;
      clearInterval(timer);
    };
  }, [client]);
  if (left.length === 0) return null;
  return (
    <p className={classes.notice} role="status" data-testid="unsaved">
      Not saved yet, kept on this device:{' '}
      {left.map((unsaved) => (
        <Link key={unsaved.path} to={addressOf(unsaved)}>
          {unsaved.name}
        </Link>
      ))}
    </p>
  );
}

const addressOf = (unsaved: Unsaved) => unsaved.path.replace('/api', '');

/** The revision under which it is on the server now: found there, or saved there on the one it was made on; or null. */
async function settled({ path, revision, content }: Unsaved): Promise<number | null> {
  const what = path.startsWith('/api/formulas/') ? 'formula' : 'plan';
  const answer = await fetch(path);
  if (answer.status === 404) return 0;
  if (!answer.ok) return null;
  const kept = (await answer.json()) as Record<string, unknown> & { revision: number };
  if (isSame(kept[what], content)) return kept.revision;
  if (kept.revision !== revision || kept.archived_at !== null) return null;
  const saved = await fetch(path, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ revision, [what]: content }),
  });
  return saved.ok ? ((await saved.json()) as { revision: number }).revision : null;
}
