import { readFileSync } from 'node:fs';
import type { TestProject } from 'vitest/node';
import { startServers } from '../tools/servers.js';
import type { ServerAddresses } from './engines.js';

declare module 'vitest' {
  export interface ProvidedContext {
    servers: ServerAddresses;
  }
}

/** Starts the real servers once for a run, or takes those that `FAMILY_TREE_SERVERS` names: a file with their addresses. */
export default async function setup({ provide }: TestProject): Promise<(() => Promise<void>) | undefined> {
  const running = process.env.FAMILY_TREE_SERVERS;
  if (running !== undefined) {
    provide('servers', JSON.parse(readFileSync(running, 'utf8')) as ServerAddresses);
    return undefined;
  }
  const { postgres, mariadb, password, folder, stop } = await startServers();
  provide('servers', { postgres, mariadb, password, folder });
  return stop;
}
