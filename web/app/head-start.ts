import * as v from 'valibot';
import { Tree } from '../../contract/index.js';
import { wholeMapOf } from '../workers/whole-map.js';
import { fetchAhead, toldWithPage } from './ahead.js';
import { askDesignAhead, startDesign } from './design-client.js';
import { type FetchModule, screenModules } from './screen-modules.js';
import { spokenBy } from './spoken-by.js';

/** How long the page waits for what a person has set, in milliseconds. */
const PATIENCE = 1000;

/**
 * Sends for all that an address needs at once: the screen's code, the tree, its text read in the worker, the map. One
 * after the other, each would wait until the code before it had been fetched and begun.
 */
export function headStart({ pathname, search }: Location): void {
  void fetchAhead('/api/preferences', AbortSignal.timeout(PATIENCE));
  const [, id, screen = 'design'] = /^\/tree\/([^/]+)(?:\/([^/]+))?/.exec(pathname) ?? [];
  if (id === undefined) return;
  startDesign(id);
  // What fails here fails again where it is asked for, and is told there.
  void readAhead(id, screen === 'design' && search === '').catch(() => undefined);
  const modules: Readonly<Record<string, FetchModule>> = screenModules;
  void modules[screen]?.().catch(() => undefined);
}

async function readAhead(id: string, withMap: boolean): Promise<void> {
  const path = `/api/trees/${id}`;
  const answer = fetchAhead(path);
  // At once where it came with the page: the worker reads the text while the page's own code is on its way.
  const tree = v.parse(Tree, toldWithPage(path) ?? (await (await answer).clone().json()));
  askDesignAhead('view', { text: tree.text, dialect: spokenBy(tree) });
  if (withMap) askDesignAhead('map', wholeMapOf(tree.text));
}
