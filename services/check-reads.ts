import type { Design } from '../core/design/index.js';
import { heldAgainst, loadLines, type WideLoad, withLoaded } from '../core/reads/index.js';
import { firstDifference } from '../core/ways/index.js';
import type { Engine } from '../engines/index.js';
import { queryFor } from './found-query.js';
import { type RunAnswer, type RunOutcome, type RunRequest, runQuery } from './run-query.js';

/** What a page reads of a query's rows, held against what the query loads, on the rows that there are. */
export interface ReadsChecked {
  /** One sentence that says it. */
  readonly sentence: string;
  /** Statements as the page reads it, and with everything loaded. */
  readonly asRead: number;
  readonly loaded: number;
  /** The same with ten times as many root rows. */
  readonly asReadTenfold: number;
  /** Both brought the same rows; null where nothing had to be loaded. */
  readonly difference: string | null;
  /** What is asked for once for each row, and how often on these rows. */
  readonly unloaded: readonly { readonly path: string; readonly statements: number }[];
  /** The lines that the query lacks. */
  readonly lines: readonly string[];
  /** What is loaded and never read. */
  readonly unread: readonly { readonly path: string; readonly rows: number; readonly bytes: number }[];
  readonly wide: readonly WideLoad[];
}

export type ReadsOutcome = { readonly ok: true; readonly checked: ReadsChecked } | Extract<RunOutcome, { ok: false }>;

/**
 * Runs a query as a page reads it, each related row that is not loaded asked for by itself, and as it would be with all of it
 * loaded; counts the statements of both, and compares what they brought.
 */
export async function checkReads(
  design: Design,
  engine: Engine,
  request: Omit<RunRequest, 'way' | 'changed'>,
): Promise<ReadsOutcome> {
  const found = queryFor(design, request.query);
  if (!('query' in found)) return { ok: false, ...found };
  const held = heldAgainst(found.query);
  const loaded = await runQuery(design, engine, { ...request, changed: (one) => withLoaded(one, 'batch') });
  if (!loaded.ok) return loaded;
  const asRead =
    held.unloaded.length === 0
      ? loaded
      : await runQuery(design, engine, { ...request, changed: (one) => withLoaded(one, 'row') });
  if (!asRead.ok) return asRead;
  const [page, whole] = [sentFor(asRead.answer), sentFor(loaded.answer)];
  const difference = asRead === loaded ? null : firstDifference(JSON.parse(asRead.answer.text), JSON.parse(loaded.answer.text));
  const lines = loadLines(held);
  const unloaded = held.unloaded.map(({ path }) => ({ path, statements: sentFor(asRead.answer, path) }));
  const perRow = unloaded.reduce((sum, { statements }) => sum + statements, 0);
  const unread = held.unread.map((path) => ({ path, ...costOf(loaded.answer, path) }));
  const checked = {
    asRead: page,
    loaded: whole,
    asReadTenfold: page + perRow * 9,
    difference,
    unloaded,
    lines,
    unread,
    wide: held.wide,
  };
  return { ok: true, checked: { ...checked, sentence: sentenceOf(checked) } };
}

function sentFor({ log }: RunAnswer, path: string | null = null): number {
  return log.filter((entry) => path === null || entry.path === path).reduce((sum, { times }) => sum + times, 0);
}

/** What a load, and all that is loaded below it, brought. */
function costOf({ log }: RunAnswer, path: string): { readonly rows: number; readonly bytes: number } {
  const own = log.filter((entry) => entry.path === path || entry.path.startsWith(`${path}.`));
  return {
    rows: own.reduce((sum, { rows }) => sum + rows, 0),
    bytes: own.reduce((sum, { bytes }) => sum + bytes, 0),
  };
}

function sentenceOf(checked: Omit<ReadsChecked, 'sentence'>): string {
  const { asRead, loaded, asReadTenfold, lines, difference, unread, wide } = checked;
  const count = (number: number) => `${number.toLocaleString('en')} statement${number === 1 ? '' : 's'}`;
  const waste = [
    ...(unread.length === 0 ? [] : [`loaded and never read: ${unread.map(({ path }) => path).join(', ')}`]),
    ...(wide.length === 0 ? [] : [`whole rows where a few fields would do: ${wide.map(({ path }) => path).join(', ')}`]),
  ];
  const rest = waste.map((one) => ` ${capital(one)}.`).join('');
  if (lines.length === 0) return `${count(asRead)} as the page reads it: all that it reads is loaded.${rest}`;
  const same = difference === null ? 'same answer' : `the answers differ: ${difference}`;
  return `${count(asRead)} as the page reads it, ${asReadTenfold.toLocaleString('en')} with ten times the rows; with “${lines.join('”, “')}”: ${loaded}; ${same}.${rest}`;
}

function capital(text: string): string {
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}`;
}
