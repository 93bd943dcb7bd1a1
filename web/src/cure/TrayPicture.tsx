import type { TrayNow } from '../api/types';
import classes from './TrayPicture.module.css';

/** A tray from above: a place a bar, filled from below as the bars dry. */
export function TrayPicture({ tray, batchId }: { tray: TrayNow; batchId?: string }) {
  const { columns, rows, code, shelf } = tray.tray;
  const places = tray.stands.flatMap((one) => Array.from({ length: one.bars }, () => one));
  const width = Math.min(columns, 12);
  return (
    <figure className={classes.tray}>
      <div style={{ gridTemplateColumns: `repeat(${width}, 1fr)` }} aria-hidden>
        {Array.from({ length: columns * rows }, (_, i) => {
          const bar = places[i];
          return <i key={i} data-bar={bar !== undefined} data-own={bar !== undefined && (batchId === undefined || bar.batch_id === batchId)} data-ready={bar?.ready_at != null && new Date(bar.ready_at) <= new Date()} />;
        })}
      </div>
      <figcaption>
        <b>{code}</b> {shelf !== '' && <>{shelf} · </>}
        {tray.stands.map((one) => `${one.code}: ${one.bars}`).join(', ') || 'empty'} · {tray.free} of {tray.places} free
      </figcaption>
    </figure>
  );
}
