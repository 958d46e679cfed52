/** The page: its HTML, as an address needs it. */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import * as v from 'valibot';

export { Openings } from './openings.js';

const Manifest = v.record(v.string(), v.object({ file: v.string(), imports: v.optional(v.array(v.string()), []) }));
type Manifest = v.InferOutput<typeof Manifest>;

const PAGE = 'app/page.tsx';

/**
 * The HTML of the page for an address, with the links by which a browser fetches the code of its screen at once, and not
 * only when the code before it has run.
 *
 * @param folder what the page was built into
 * @param path of the address
 * @param nonce for the styles that the page makes
 * @param told what the page needs first, each as JSON: by the address of the API, so that it need not ask, or by its name
 * @returns null where the page is not built
 */
export function pageFor(
  folder: string,
  path: string,
  nonce: string,
  told: ReadonlyMap<string, string> = new Map(),
): string | null {
  const file = join(folder, 'index.html');
  if (!existsSync(file)) return null;
  const html = readFileSync(file, 'utf8').replaceAll('__NONCE__', nonce);
  const isTree = treeOfAddress(path) !== null;
  const screen = path.split('/')[3] || 'design';
  const manifest = v.parse(Manifest, JSON.parse(readFileSync(join(folder, 'manifest.json'), 'utf8')));
  const entries = [PAGE, ...(isTree ? [`screens/${screen}/index.tsx`] : [])];
  const files = new Set(entries.flatMap((entry) => filesOf(manifest, entry)));
  const links = Array.from(files, (name) => `<link rel="modulepreload" crossorigin href="/${name}">`);
  // A function, since signs of a text mean something in what is put in.
  return html.replace('</head>', () => `${links.join('')}${toldAhead(told)}</head>`);
}

/** What the page is told with itself: JSON in which no sign ends its element (HTML, 4.12.1.3). */
function toldAhead(told: ReadonlyMap<string, string>): string {
  const members = Array.from(told, ([name, json]) => `${JSON.stringify(name)}:${json}`);
  return `<script type="application/json" id="told-ahead">${`{${members.join()}}`.replaceAll('<', '\\u003c')}</script>`;
}

/** The tree that an address is about; null where it is about none. */
export function treeOfAddress(path: string): string | null {
  return /^\/tree\/([\w-]+)(?:\/|$)/.exec(path)?.[1] ?? null;
}

/** The code of an entry, and all that it imports. */
function filesOf(manifest: Manifest, entry: string, seen: Set<string> = new Set()): string[] {
  const known = Object.hasOwn(manifest, entry) ? manifest[entry] : undefined;
  if (known === undefined || seen.has(entry)) return [];
  seen.add(entry);
  return [known.file, ...known.imports.flatMap((name) => filesOf(manifest, name, seen))];
}
