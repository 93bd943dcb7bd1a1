/** Starts Sapolin's own server on data of its own, so that the screens under test are answered as they are in use. */
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';

import type { TestProject } from 'vitest/node';

declare module 'vitest' {
  interface ProvidedContext {
    server: string;
  }
}

const PATIENCE_MS = 60_000;

export default async function setup(project: TestProject): Promise<() => void> {
  const data = mkdtempSync(join(tmpdir(), 'sapolin-web-'));
  const python = resolve(import.meta.dirname, '../../../.venv/bin/python');
  const server = spawn(python, ['-m', 'sapolin', 'serve', '--demo', '--port', '0', '--data', data], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  project.provide('server', await addressOf(server));
  return () => {
    server.kill('SIGKILL');
    rmSync(data, { recursive: true, force: true });
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
