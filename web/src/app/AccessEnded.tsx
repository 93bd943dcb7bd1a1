import type { ReactNode } from 'react';

import { useAccessEnded } from '../api/access';
import classes from './AccessEnded.module.css';

/** The application, or, where this device's access has ended, that and the way back in. What is not sent yet stays on the device. */
export function AccessEnded({ children }: { children: ReactNode }) {
  const isEnded = useAccessEnded();
  return (
    <>
      {children}
      {isEnded && (
        <div className={classes.cover} role="alertdialog" aria-modal aria-labelledby="access-ended" data-testid="access-ended">
          <div>
            <h2 id="access-ended">This device has no access any more</h2>
            <p>It was ended on the main screen, or a year has passed. What you entered here and is not sent yet stays on this device, and is sent when it is paired again.</p>
            {/* A plain link: the page of the code is the server's own. */}
            <a className={classes.again} href="/pair" autoFocus>
              Pair it again
            </a>
          </div>
        </div>
      )}
    </>
  );
}
