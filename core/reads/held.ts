import { type Load, loadOf, type Query, type ReadPath } from '../model/index.js';
import { type LoadWay, writtenInLines } from '../notation/index.js';

/** Related rows that a page reads, and that the query does not load: they are asked for once for each row. */
export interface UnloadedPath {
  /** The roles, as a line `load` names them. */
  readonly path: string;
  /** The fields that are read of them; none where the rows themselves are. */
  readonly fields: readonly string[];
}

/** A load of whole rows of which a page reads a few fields. */
export interface WideLoad {
  readonly path: string;
  readonly fields: readonly string[];
}

export interface Held {
  readonly unloaded: readonly UnloadedPath[];
  /** What is loaded and never read, by its path: the outermost of what stands below each other. */
  readonly unread: readonly string[];
  readonly wide: readonly WideLoad[];
}

/** Holds what a page reads against what a query loads. What comes along with every row is loaded, too. */
export function heldAgainst({ loads, reads }: Query): Held {
  const unloaded = new Map<string, Set<string>>();
  const unread: string[] = [];
  const wide: WideLoad[] = [];
  const visit = (level: readonly Load[], above: string, here: readonly ReadPath[], depth: number): void => {
    for (const read of here) {
      const next = read.steps[depth];
      if (next === undefined || level.some((load) => leads(load, next.role))) continue;
      // What is not loaded at this step is loaded at none behind it.
      const names = read.steps.map(({ role }) => role.name);
      for (let end = depth + 1; end <= names.length; end++) {
        const path = names.slice(0, end).join('.');
        const fields = unloaded.get(path) ?? new Set<string>();
        if (end === names.length && read.field !== null) fields.add(read.field);
        unloaded.set(path, fields);
      }
    }
    for (const load of level) {
      const path = above === '' ? load.role.name : `${above}.${load.role.name}`;
      const behind = here.filter(({ steps }) => steps[depth] !== undefined && leads(load, steps[depth].role));
      if (behind.length === 0) {
        unread.push(path);
        continue;
      }
      const ends = behind.filter(({ steps }) => steps.length === depth + 1);
      const fields = Array.from(new Set(ends.flatMap(({ field }) => (field === null ? [] : [field]))));
      if (load.fields === null && ends.every(({ field }) => field !== null) && fields.length > 0) wide.push({ path, fields });
      visit(load.loads, path, behind, depth + 1);
    }
  };
  visit(loads, '', reads, 0);
  return { unloaded: Array.from(unloaded, ([path, fields]) => ({ path, fields: Array.from(fields) })), unread, wide };
}

function leads({ role }: Load, other: Load['role']): boolean {
  return role.name === other.name && role.relation === other.relation && role.target === other.target;
}

/** A query that loads what a page reads too: by row as the page asks for it, or by batch as a line `load` would. */
export function withLoaded(query: Query, by: LoadWay): Query {
  const loads = query.reads.reduce<readonly Load[]>((all, read) => added(all, read.steps, by), query.loads);
  return { ...query, loads };
}

function added(loads: readonly Load[], steps: ReadPath['steps'], by: LoadWay): readonly Load[] {
  const [first, ...rest] = steps;
  if (first === undefined) return loads;
  const known = loads.find((load) => leads(load, first.role));
  const load = known ?? loadOf(first.role, { branch: first.branch, by });
  const deeper = { ...load, loads: added(load.loads, rest, by) };
  return known === undefined ? [...loads, deeper] : loads.map((one) => (one === known ? deeper : one));
}

/** The lines `load` that bring what is read and not loaded: with the fields that are read, where it is but fields. */
export function loadLines({ unloaded }: Held): string[] {
  return unloaded
    .filter(({ path, fields }) => fields.length > 0 || !unloaded.some((other) => other.path.startsWith(`${path}.`)))
    .map(({ path, fields }) => `load ${path}${fields.length === 0 ? '' : ` (${fields.join(', ')})`}`);
}

/**
 * A query's text with more lines, below its last load, or below what its rows are. A query on one line is written in lines.
 *
 * @param lines each a whole line `load`
 */
export function withLines(text: string, lines: readonly string[]): string {
  const written = writtenInLines(text).split('\n');
  const loads = written.findLastIndex((line) => /^load\b/.test(line));
  const after = loads >= 0 ? loads : written.findLastIndex((line) => /^(from|where)\b/.test(line));
  let at = after + 1;
  while (at < written.length && /^\s+\S/.test(written[at] ?? '')) at += 1;
  return [...written.slice(0, at), ...lines, ...written.slice(at)].join('\n');
}
