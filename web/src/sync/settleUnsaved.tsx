import { CopyButton } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';

import { answered, api, ApiFailure } from '../api/client';
import { fateOf } from '../api/fate';
import buttons from '../design/buttons.module.css';
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

/** waits: it is tried again. gone: what it belongs to is not here any more. */
type Left = { place: string; unsaved: Unsaved; why: 'waits' | 'gone' };

/** What was left unsaved is saved in the background; what cannot be is named, with the way to it. Nothing is forgotten because
 *  the server does not know it: it can be copied, and is dropped by hand. */
export function UnsavedNotice() {
  const client = useQueryClient();
  const [left, setLeft] = useState<Left[]>([]);
  useEffect(() => {
    let isOver = false;
    const settle = async () => {
      const unsettled: Left[] = [];
      for (const [place, unsaved] of leftUnsaved()) {
        // What is on screen, or about to be, looks after itself.
        if (open.has(unsaved.path) || window.location.pathname === unsaved.page) continue;
        const revision = await settled(unsaved);
        if (isOver) return;
        if (typeof revision === 'number') {
          // Opened again it can still be undone.
          const { past, content: present, future, unread } = unsaved;
          await keepHistory(idOf(unsaved), revision, { past, present, future, mergeKey: null }, unread);
          forgetUnsaved(unsaved.path, place);
          await client.invalidateQueries();
        } else unsettled.push({ place, unsaved, why: revision });
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
  const waiting = left.filter((one) => one.why === 'waits');
  const gone = left.filter((one) => one.why === 'gone');
  const drop = ({ unsaved, place }: Left) => {
    forgetUnsaved(unsaved.path, place);
    setLeft((now) => now.filter((one) => one.place !== place));
  };
  return (
    <div className={classes.notice} role="status" data-testid="unsaved">
      {waiting.length > 0 && (
        <p>
          Not saved yet, kept on this device:{' '}
          {waiting.map(({ place, unsaved }) => (
            <Link key={place} to={unsaved.page}>
              {unsaved.name}
            </Link>
          ))}
        </p>
      )}
      {gone.map((one) => (
        <p key={one.place}>
          “{one.unsaved.name}” was deleted before your last changes were saved. They are kept on this device.{' '}
          <CopyButton value={JSON.stringify(one.unsaved.content, null, 2)}>
            {({ copied, copy }) => (
              <button type="button" className={buttons.link} onClick={copy}>
                {copied ? 'Copied' : 'Copy them'}
              </button>
            )}
          </CopyButton>{' '}
          <button type="button" className={buttons.link} onClick={() => drop(one)}>
            Discard them
          </button>
        </p>
      ))}
    </div>
  );
}

/** How each kind of record is read and saved, by the beginning of its address. */
const SAVED_AT: [beginning: string, part: 'formula' | 'plan' | 'design', idPrefix: string][] = [
  ['/api/formulas/', 'formula', ''],
  ['/api/labels/', 'design', 'label-'],
  ['/api/', 'plan', ''],
];
const kindOf = (path: string) => SAVED_AT.find(([beginning]) => path.startsWith(beginning)) ?? (['/api/', 'plan', ''] as const);
const idOf = ({ path }: Unsaved) => kindOf(path)[2] + (path.split('/').at(-1) ?? '');

type Kept = Record<string, unknown> & { revision: number; archived_at?: string | null };

/** The revision under which it is on the server now: found there, or saved there on the one it was made on; or why it is not. */
async function settled({ path, revision, content }: Unsaved): Promise<number | Left['why']> {
  const part = kindOf(path)[1];
  // One of the addresses of the API, chosen while it runs.
  const address = path as '/api/formulas/{formula_id}';
  try {
    const kept = (await answered(api.GET(address, { params: { path: { formula_id: '' } } }))) as unknown as Kept;
    if (isSame(kept[part], content)) return kept.revision;
    if (kept.revision !== revision || (kept.archived_at ?? null) !== null) return 'waits';
    const body = { revision, [part]: content } as never;
    return ((await answered(api.PUT(address, { params: { path: { formula_id: '' } }, body }))) as unknown as Kept).revision;
  } catch (failure) {
    const isGone = failure instanceof ApiFailure && fateOf(failure) === 'kept' && failure.code === 'not_found';
    return isGone ? 'gone' : 'waits';
  }
}
