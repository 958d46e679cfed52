import { join } from 'node:path';
import * as v from 'valibot';
import { LiveState, Tree } from '../contract/index.js';
import { serve } from '../server/index.js';
import { askServer } from './ask-server.js';
import { temporaryFolder } from './database.js';

/** A server of a test with a tree, and the live endpoint of it. */
export interface LiveServer {
  readonly tree: Tree;
  /** The address of the endpoint, whole. */
  readonly address: string;
  /** What lets a client work as the system. */
  readonly token: string;
  readonly page: ReturnType<typeof askServer>;
  /** What came to the endpoint last. */
  state(): Promise<LiveState>;
  close(): Promise<void>;
}

/** Serves a text’s rows at a live endpoint of its own. */
export async function serveLive(text: string): Promise<LiveServer> {
  const folder = temporaryFolder();
  const data = join(folder.path, 'data');
  const serving = await serve({ data, host: '127.0.0.1', port: 0, token: null, uploadLimit: 2_000_000, quiet: true });
  const page = askServer(() => serving.port);
  const tree = v.parse(Tree, (await page('POST', 'trees', { from: 'text', text })).body);
  const state = async () => v.parse(LiveState, (await page('GET', `trees/${tree.id}/live`)).body);
  const { base, token } = await state();
  const close = async () => {
    await serving.close();
    folder.remove();
  };
  return { tree, address: `http://127.0.0.1:${serving.port}${base}`, token, page, state, close };
}
