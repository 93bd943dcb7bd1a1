/** Starts Sapolin's own server, one for each worker, so that the screens under test are answered as they are in use and no
 *  two files of tests pour onto the same scale. */
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';

import type { TestProject } from 'vitest/node';

declare module 'vitest' {
  interface ProvidedContext {
    servers: string[];
  }
}

const PATIENCE_MS = 60_000;
/** As many as vite.config.ts lets work at a time. */
const WORKERS = 2;

export default async function setup(project: TestProject): Promise<() => void> {
  const root = resolve(import.meta.dirname, '../../..');
  const started = Array.from({ length: WORKERS }, () => {
    const data = mkdtempSync(join(tmpdir(), 'sapolin-web-'));
    const server = spawn(join(root, '.venv/bin/python'), [join(root, 'tests/quick_scale.py'), 'serve', '--demo', '--port', '0', '--data', data], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    return { data, server };
  });
  project.provide('servers', await Promise.all(started.map(({ server }) => addressOf(server))));
  return () => {
    for (const { data, server } of started) {
      server.kill('SIGKILL');
      rmSync(data, { recursive: true, force: true });
    }
  };
}

function addressOf(server: ChildProcess): Promise<string> {
  return new Promise((found, failed) => {
    const tired = setTimeout(() => failed(new Error('The server did not say its address.')), PATIENCE_MS);
    let said = '';
    server.stdout?.on('data', (chunk: Buffer) => {
      said += chunk.toString();
      const address = /http:\/\/127\.0\.0\.1:\d+/.exec(said);
      if (address === null) return;
      clearTimeout(tired);
      found(address[0]);
    });
    server.on('exit', (code) => failed(new Error(`The server ended with ${code}: ${said}`)));
  });
}
