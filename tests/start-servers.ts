import { execFileSync } from 'node:child_process';
import { readFileSync, rmSync } from 'node:fs';
import { resolve } from 'node:path';
import type { TestProject } from 'vitest/node';
import { startServers } from '../tools/servers.js';
import type { ServerAddresses } from './engines.js';

declare module 'vitest' {
  export interface ProvidedContext {
    servers: ServerAddresses;
  }
}

/** Builds the programs, and starts the real servers, once for a run, or takes those that `FAMILY_TREE_SERVERS` names: a file with their addresses. */
export default async function setup({ provide }: TestProject): Promise<() => void | Promise<void>> {
  const removePrograms = buildPrograms();
  const running = process.env.FAMILY_TREE_SERVERS;
  if (running !== undefined) {
    provide('servers', JSON.parse(readFileSync(running, 'utf8')) as ServerAddresses);
    return removePrograms;
  }
  const { postgres, mariadb, password, folder, stop } = await startServers();
  provide('servers', { postgres, mariadb, password, folder });
  return async () => {
    removePrograms();
    await stop();
  };
}

/** Builds what runs in processes of its own, for this run alone: as source each would take seconds to start. */
function buildPrograms(): () => void {
  const folder = resolve('test-results', `programs-${process.pid}`);
  execFileSync(process.execPath, ['tools/programs.mjs', folder], { stdio: 'inherit' });
  process.env.FAMILY_TREE_PROGRAMS = folder;
  return () => rmSync(folder, { recursive: true, force: true });
}
