import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';

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
        if (open.has(unsaved.path)) continue;
        const isSettled = await settled(unsaved).catch(() => false);
        if (isOver) return;
        if (isSettled) {
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
        <Link key={unsaved.path} to={unsaved.path.replace('/api', '')}>
          {unsaved.name}
        </Link>
      ))}
    </p>
  );
}

/** Whether it is on the server now: found there, or saved there on the revision it was made on. */
async function settled({ path, revision, content }: Unsaved): Promise<boolean> {
  const what = path.startsWith('/api/formulas/') ? 'formula' : 'plan';
  const answer = await fetch(path);
  if (answer.status === 404) return true;
  if (!answer.ok) return false;
  const kept = (await answer.json()) as Record<string, unknown>;
  if (isSame(kept[what], content)) return true;
  if (kept.revision !== revision || kept.deleted_at !== null) return false;
  const saved = await fetch(path, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ revision, [what]: content }),
  });
  return saved.ok;
}
