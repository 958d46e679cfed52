import { isDeepStrictEqual } from 'node:util';
import type { Role } from '../core/model/index.js';
import { runQuery } from '../services/index.js';
import { carriesOut, type EngineName, type Engines, type MadeTree, makeOn } from './engines.js';
import { expectReadBack } from './read-back.js';
import { mixedWays, multiplies, shownQueries } from './shown-queries.js';

export const ENGINES: readonly EngineName[] = ['sqlite', 'postgres', 'embedded', 'mariadb'];

/**
 * An engine for each dialect, for what does the same thing thousands of times: the embedded PostgreSQL, held against the others in
 * tests of its own, is several times as slow. `EMBEDDED=1` takes it along.
 */
export const ONE_OF_EACH: readonly EngineName[] = ENGINES.filter((name) => name !== 'embedded' || process.env.EMBEDDED === '1');

/** How many answers, and values in them, were compared between engines. */
export interface Compared {
  answers: number;
  values: number;
}

/** On which engines it is asked, and of how many queries that load one is asked in all ways. */
interface Asked {
  readonly names?: readonly EngineName[];
  readonly waysEach?: number;
}

/**
 * Makes a text on each engine, reads it back, asks each query of all of them, and compares the answers with SQLite's, value by
 * value.
 * @throws at the first difference, with what was read back, or the query, the engines and both answers
 */
export async function agree(
  engines: Engines,
  text: string,
  queries: readonly string[],
  compared: Compared,
  { names = ENGINES, waysEach = 1 }: Asked = {},
): Promise<void> {
  const made: MadeTree[] = [];
  try {
    for (const name of names) if (carriesOut(name, text)) made.push(await makeOn(engines, name, text));
    for (const one of made) await expectReadBack(one, text);
    const [first, ...others] = made;
    if (first === undefined) return;
    for (const other of others) {
      if (
        !isDeepStrictEqual(other.made.rows, first.made.rows) ||
        !isDeepStrictEqual(other.made.unsatisfied, first.made.unsatisfied)
      )
        throw difference('the rows that were made', first, first.made, other, other.made, text);
    }
    for (const [place, query] of queries.entries()) {
      const expected = await answerOf(first, query, compared);
      for (const other of others) {
        const answer = await answerOf(other, query, compared);
        if (!isDeepStrictEqual(answer, expected)) throw difference(query, first, expected, other, answer, text);
      }
      if (!/^load /m.test(query) || place % waysEach !== 0) continue;
      for (const [at, one] of made.entries())
        for (const way of OTHER_WAYS) {
          if (way === 'join' && multiplies(query)) continue;
          const asked = way === 'mixed' ? mixedWays(query, at) : query;
          const answer = await answerOf(one, asked, compared, way);
          if (answer === null || isDeepStrictEqual(answer, expected)) continue;
          throw difference(`${asked}\nby ${way}`, first, expected, one, answer, text);
        }
    }
  } finally {
    for (const { database } of made) await database.remove();
  }
}

/** The queries that ask for everything that a model's entities, roles, paths, kinds and scopes have. */
export function everything({ design }: Pick<MadeTree, 'design'>): string[] {
  return asked(design).flatMap((query) => {
    const [from, condition] = query.split('\nwhere ');
    if (query.includes('\nshow ')) return [query];
    return condition === undefined || condition.includes('\n') ? [query] : [query, `${from}\nwhere not (${condition})`];
  });
}

function asked(design: MadeTree['design']): string[] {
  const { model } = design;
  return Array.from(model.entities.values()).flatMap((entity) => {
    const from = `from ${entity.name}\n`;
    const walked = [...entity.roles, ...entity.paths];
    const whole = Array.from(entity.polymorphic, ({ name }) => name);
    return [
      `${from}${[...walked.map(({ name }) => name), ...whole].map((name) => `load ${name}\n`).join('')}`,
      `${from}count`,
      ...shownQueries(design, entity),
      ...entity.fields
        .filter(({ type }) => type.kind !== 'json' && type.kind !== 'bytes')
        .map(({ name }) => `${from}order by ${quoted(name)} desc`),
      ...entity.derived.map(({ name }) => `${from}order by ${quoted(name)}`),
      ...walked.flatMap((role) => [
        `${from}where ${role.knows === 'many' ? `any(${role.name})` : `${role.name} is not null`}`,
        ...(role.knows === 'many' ? [`${from}where count(${role.name}) > 1`] : [`${from}order by ${role.name}`]),
        ...filtered(design, role).map((line) => `${from}${line}`),
        ...kindsOf(design, role.target).flatMap((kind) => [
          `${from}load (${role.name} as ${kind})`,
          role.knows === 'many' ? `${from}where any((${role.name} as ${kind}))` : `${from}where ${role.name} is a ${kind}`,
        ]),
      ]),
      ...entity.polymorphic.flatMap(({ name, knows, branches }) => [
        `${from}where ${knows === 'many' ? `any(${name})` : `${name} is not null`}`,
        ...(knows === 'many' ? [`${from}where count(${name}) > 1`] : [`${from}where ${name} is null`]),
        ...branches.flatMap(({ target }) => [
          `${from}load (${name} as ${target})`,
          ...(knows === 'many' ? [] : [`${from}where ${name} is a ${target}`, `${from}where ${name} is not a ${target}`]),
          ...(knows === 'many' ? [] : [`${from}where (${name} as ${target}).${fieldOf(design, target)} is not null`]),
        ]),
        ...(knows === 'many' ? [] : comparedWithRows(design, branches)).map((condition) => `${from}where ${name} ${condition}`),
      ]),
      ...Array.from(model.scopes.values()).flatMap(({ name, conditions }) =>
        conditions.has(entity.name) ? [`${from}where ${name}`, `${from}where not ${name}\ncount`] : [],
      ),
    ];
  });
}

/** A role walked on from, with a condition on its rows and in an order of the query's own. */
function filtered(design: MadeTree['design'], { name, knows, target }: Role): string[] {
  const [behind] = design.model.entities.get(target)?.roles ?? [];
  const deeper = behind === undefined ? '' : `\n  ${behind.name}`;
  const field = fieldOf(design, target);
  if (knows !== 'many')
    return [
      `load ${name}${deeper}`,
      `where ${name}.${field} is not null`,
      ...(behind?.knows === 'many' ? [`where count(${name}.${behind.name}) > 1`] : []),
    ];
  return [
    `load ${name} limit 2${deeper}`,
    `load ${name} order by ${field} limit 1`,
    `load ${name} where ${field} is not null order by ${field} desc${deeper}`,
    `where any(${name}[${field} is null])`,
    `where all(${name}[${field} is not null])`,
    ...(behind === undefined ? [] : [`where none(${name}.${behind.name})`]),
  ];
}

/** What a role to several entities can be asked of rows that are named by a whole number. */
function comparedWithRows({ model }: MadeTree['design'], branches: readonly { readonly target: string }[]): string[] {
  const rows = branches.flatMap(({ target }) => {
    const entity = model.entities.get(target);
    const type = entity?.fields.find(({ name }) => name === entity.key.columns[0])?.type.kind;
    return entity?.key.columns.length === 1 && (type === 'integer' || type === 'bigint') ? [`${target}(2)`] : [];
  });
  const list = rows.join(', ');
  return [...rows.flatMap((row) => [`= ${row}`, `<> ${row}`]), ...(rows.length > 0 ? [`in (${list})`, `not in (${list})`] : [])];
}

/** The kinds below an entity. */
function kindsOf(design: MadeTree['design'], name: string): string[] {
  const kinds = design.model.entities.get(name)?.kinds?.kinds ?? [];
  return kinds.flatMap((kind) => [kind, ...kindsOf(design, kind)]);
}

/** The last of an entity's fields that has an order. */
function fieldOf({ model }: MadeTree['design'], name: string): string {
  const fields = model.entities.get(name)?.fields.filter(({ type }) => type.kind !== 'json' && type.kind !== 'bytes');
  return quoted(fields?.at(-1)?.name ?? '');
}

function quoted(name: string): string {
  return /^[a-z_]\w*$/.test(name) ? name : `"${name}"`;
}

const OTHER_WAYS = ['join', 'json', 'row', 'mixed'] as const;

/** The answer to a query; null where, joined, it multiplies beyond what is let through. */
async function answerOf(
  { design, database, made }: MadeTree,
  query: string,
  compared: Compared,
  way?: (typeof OTHER_WAYS)[number],
): Promise<unknown> {
  const outcome = await runQuery(design, database.engine, {
    query: { kind: 'text', text: query, parameters: [] },
    parameters: {},
    sampleKeys: made.sampleKeys,
    madeHere: true,
    rowLimit: way === undefined ? 10_000 : 5_000,
    ...(way === undefined || way === 'mixed' ? {} : { way }),
  });
  if (outcome.ok && way !== undefined && outcome.answer.cuts.length > 0) return null;
  if (!outcome.ok) return { problems: [...outcome.findings.map(({ message }) => message), ...outcome.problems] };
  // Doubles that are summed agree to twelve digits.
  const sums = /\b(sum|avg)\(/.test(query);
  const rows: unknown = JSON.parse(outcome.answer.text, (_, value: unknown) =>
    sums && typeof value === 'number' ? Number(value.toPrecision(12)) : value,
  );
  compared.answers += 1;
  compared.values += valuesIn(rows);
  return rows;
}

function valuesIn(value: unknown): number {
  if (typeof value !== 'object' || value === null) return 1;
  return Object.values(value).reduce((sum: number, inner) => sum + valuesIn(inner), 0);
}

function difference(what: string, one: MadeTree, first: unknown, other: MadeTree, second: unknown, text: string): Error {
  return new Error(
    `${one.name} and ${other.name} differ in ${what}\n${firstDifference(first, second, '')}\n\nThe text:\n${text.slice(0, 6000)}`,
  );
}

function firstDifference(a: unknown, b: unknown, path: string): string {
  if (isDeepStrictEqual(a, b)) return '';
  if (Array.isArray(a) !== Array.isArray(b))
    return `${path}: ${JSON.stringify(a)?.slice(0, 300)} ≠ ${JSON.stringify(b)?.slice(0, 800)}`;
  if (typeof a === 'object' && a !== null && typeof b === 'object' && b !== null) {
    for (const key of new Set([...Object.keys(a), ...Object.keys(b)])) {
      const found = firstDifference((a as Record<string, unknown>)[key], (b as Record<string, unknown>)[key], `${path}.${key}`);
      if (found !== '') return found;
    }
  }
  const shown = (value: unknown) => (JSON.stringify(value) ?? 'nothing').slice(0, 800);
  return `${path}: ${shown(a)} ≠ ${shown(b)}`;
}
