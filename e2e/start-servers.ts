import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startServers } from '../tools/servers.js';

/** Starts the real servers once for a run; where they are stands in the file that `FAMILY_TREE_SERVERS` names. */
export default async function setup(): Promise<(() => Promise<void>) | undefined> {
  if (process.env.FAMILY_TREE_SERVERS !== undefined) return undefined;
  const servers = await startServers();
  const folder = mkdtempSync(join(tmpdir(), 'family-tree-browser-'));
  const file = join(folder, 'servers.json');
  writeFileSync(file, JSON.stringify(servers));
  process.env.FAMILY_TREE_SERVERS = file;
  return async () => {
    await servers.stop();
    rmSync(folder, { recursive: true, force: true });
  };
}
