import * as v from 'valibot';
import { spokenBy, Tree } from '../../contract/index.js';
import { type OpeningTold, openingOf, WHOLE_MAP } from '../../core/view-models/index.js';
import { addressed } from './addressed.js';
import { fetchAhead, toldWithPage } from './ahead.js';
import { askDesignAhead, startDesign, tellDesignAhead, tellViewAhead } from './design-client.js';
import { type FetchModule, screenModules } from './screen-modules.js';

/** How long the page waits for what a person has set, in milliseconds. */
const PATIENCE = 1000;

/**
 * Sends for all that an address needs at once: the screen's code, the tree, its text read, the map. One after the other, each
 * would wait until the code before it had been fetched and begun. What was told with the page is not sent for.
 */
export function headStart({ pathname, search }: Location): void {
  if (toldWithPage('/api/preferences') === undefined) void fetchAhead('/api/preferences', AbortSignal.timeout(PATIENCE));
  const about = addressed(pathname);
  if (about === null) return;
  const { tree, screen } = about;
  if (!takeOpening(tree)) {
    startDesign(tree);
    // What fails here fails again where it is asked for, and is told there.
    void readAhead(tree, screen === 'design' && search === '').catch(() => undefined);
  }
  const modules: Readonly<Record<string, FetchModule>> = screenModules;
  void modules[screen]?.().catch(() => undefined);
}

/** What a tree is opened with, where it came with the page. */
export function openingTold(): OpeningTold | undefined {
  // The server that sent this code made it, by the same code.
  return toldWithPage('opening') as OpeningTold | undefined;
}

/** Takes what the tree is opened with from the page, where it was told all of it: no worker has to read the text first. */
function takeOpening(id: string): boolean {
  const path = `/api/trees/${id}`;
  const told = openingTold();
  if (told === undefined) return false;
  const tree = v.parse(Tree, toldWithPage(path));
  void fetchAhead(path);
  const { view, map } = openingOf(tree.text, told);
  tellViewAhead({ text: tree.text, dialect: spokenBy(tree) }, view);
  tellDesignAhead('map', { text: tree.text, ...WHOLE_MAP }, map);
  return true;
}

async function readAhead(id: string, withMap: boolean): Promise<void> {
  const path = `/api/trees/${id}`;
  const answer = fetchAhead(path);
  // At once where it came with the page: the worker reads the text while the page's own code is on its way.
  const tree = v.parse(Tree, toldWithPage(path) ?? (await (await answer).clone().json()));
  askDesignAhead('view', { text: tree.text, dialect: spokenBy(tree) });
  if (withMap) askDesignAhead('map', { text: tree.text, ...WHOLE_MAP });
}
