import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { sendPicture } from '../api/sendPicture';
import type { CureView } from '../api/types';
import { useTellFailure } from '../app/showFailure';
import { shortDate } from '../design/dates';
import classes from './Cure.module.css';
import { useCuring } from './useCure';

/** Pictures of the bars; on a phone the camera takes them. */
export function Pictures() {
  const { view } = useCuring();
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const [isSending, setSending] = useState(false);
  const add = async (file: File | undefined) => {
    if (!file) return;
    setSending(true);
    try {
      client.setQueryData(['cure', view.batch_id], await sendPicture<CureView>(`/api/batches/${view.batch_id}/cure/pictures`, file));
    } catch (error) {
      tellFailure(error);
    } finally {
      setSending(false);
    }
  };
  return (
    <div className={classes.pictures}>
      <PictureRow view={view} />
      <label className={classes.addPicture} data-busy={isSending}>
        {isSending ? 'Sending …' : 'Add a picture'}
        <input type="file" accept="image/jpeg,image/png,image/webp" onChange={(event) => { void add(event.currentTarget.files?.[0]); event.currentTarget.value = ''; }} data-testid="add-picture" />
      </label>
    </div>
  );
}

/** The pictures of a batch, small; each opens whole. */
export function PictureRow({ view }: { view: CureView }) {
  return view.state.pictures.map((one) => {
    const address = `/api/batches/${view.batch_id}/photos/${one.file_id}`;
    return (
      <a key={one.seq} href={address} target="_blank" rel="noreferrer">
        <img src={`${address}?small=true`} alt={`${one.name}, ${shortDate(one.at)}`} loading="lazy" />
      </a>
    );
  });
}
