import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { sendPicture } from '../api/sendPicture';
import { useTellFailure } from '../app/showFailure';
import classes from './Make.module.css';
import { useMaking } from './MakeContext';
import { timeOf } from './time';

/** Notes, for this batch or for next time, and pictures. */
export function NotesPanel() {
  const { run, send } = useMaking();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const [text, setText] = useState('');
  const [isNextTime, setIsNextTime] = useState(false);
  const add = async () => {
    if (text.trim() === '') return;
    const sent = await send({ kind: 'noted', text: text.trim(), next_time: isNextTime });
    if (sent.ok) setText('');
  };
  const addPhoto = async (file: File | undefined) => {
    if (!file) return;
    try {
      await sendPicture(`/api/batches/${run.record.id}/photos`, file);
      await client.invalidateQueries({ queryKey: ['run', run.record.id] });
    } catch (error) {
      tellFailure(error);
    }
  };
  return (
    <section className={classes.panel} aria-label="Notes">
      <header>
        <h2>Notes</h2>
        <label className={classes.photo}>
          add a picture
          <input type="file" accept="image/jpeg,image/png,image/webp" onChange={(event) => void addPhoto(event.currentTarget.files?.[0])} />
        </label>
      </header>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void add();
        }}
      >
        <textarea aria-label="A note" rows={2} maxLength={2000} value={text} onChange={(event) => setText(event.currentTarget.value)} data-testid="note" />
        <div className={classes.noteActions}>
          <label>
            <input type="checkbox" checked={isNextTime} onChange={(event) => setIsNextTime(event.currentTarget.checked)} data-testid="next-time" /> for next time
          </label>
          <button type="submit" disabled={text.trim() === ''} data-testid="add-note">
            Write it down
          </button>
        </div>
      </form>
      <ul className={classes.notes}>
        {[...run.state.notes].reverse().map((note) => (
          <li key={note.seq}>
            <time>{timeOf(note.at)}</time> {note.what}
            {run.state.next_time.includes(note.what) && <b> next time</b>}
          </li>
        ))}
      </ul>
      {run.state.photos.length > 0 && (
        <div className={classes.photos}>
          {run.state.photos.map((photo) => {
            const [id = '', ...name] = photo.what.split(':');
            const address = `/api/batches/${run.record.id}/photos/${id}`;
            return (
              <a key={photo.seq} href={address} target="_blank" rel="noreferrer">
                <img src={`${address}?small=true`} alt={name.join(':')} />
              </a>
            );
          })}
        </div>
      )}
    </section>
  );
}
