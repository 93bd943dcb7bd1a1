/* The application is read in parts, each in a task of its own: a slow phone that has to read one large script answers no touch
   until it is through. The parts are fetched all at once (the page names them), and read one after the other. */

import { pause } from './pause';

async function start(): Promise<void> {
  await import('./react');
  await pause();
  await import('./mantine');
  await pause();
  await import('./router');
  await pause();
  await import('../main');
}

void start();
