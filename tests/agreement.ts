import { isDeepStrictEqual } from 'node:util';
import { runQuery } from '../services/index.js';
import { type EngineName, type Engines, type Made, makeOn } from './engines.js';

export const ENGINES: readonly EngineName[] = ['sqlite', 'postgres', 'embedded', 'mariadb'];

/** How many answers, and values in them, were compared between engines. */
export interface Compared {
  answers: number;
  values: number;
}

/**
 * Makes a text on each engine, asks each query of all of them, and compares the answers with SQLite's, value by value.
 * @throws at the first difference, with the query, the engines and both answers
 */
export async function agree(
  engines: Engines,
  text: string,
  queries: readonly string[],
  compared: Compared,
  names: readonly EngineName[] = ENGINES,
): Promise<void> {
  const made: Made[] = [];
  try {
    for (const name of names) made.push(await makeOn(engines, name, text));
    const [first, ...others] = made;
    if (first === undefined) return;
    for (const other of others) {
      if (
        !isDeepStrictEqual(other.made.rows, first.made.rows) ||
        !isDeepStrictEqual(other.made.unsatisfied, first.made.unsatisfied)
      )
        throw difference('the rows that were made', first, first.made, other, other.made, text);
    }
    for (const query of queries) {
      const expected = await answerOf(first, query, compared);
      for (const other of others) {
        const answer = await answerOf(other, query, compared);
        if (!isDeepStrictEqual(answer, expected)) throw difference(query, first, expected, other, answer, text);
      }
    }
  } finally {
    for (const { database } of made) await database.remove();
  }
}

/** The queries that ask for everything that a model's entities and roles have. */
export function everything({ design }: Pick<Made, 'design'>): string[] {
  return Array.from(design.model.entities.values()).flatMap((entity) => [
    `from ${entity.name}\n${entity.roles.map((role) => `load ${role.name}\n`).join('')}`,
    `from ${entity.name}\ncount`,
    ...entity.fields
      .filter(({ type }) => type.kind !== 'json' && type.kind !== 'bytes')
      .map(({ name }) => `from ${entity.name}\norder by ${quoted(name)} desc`),
    ...entity.roles.flatMap((role) => [
      `from ${entity.name}\nwhere ${role.knows === 'many' ? `any(${role.name})` : `${role.name} is not null`}`,
      ...(role.knows === 'many' ? [`from ${entity.name}\nwhere count(${role.name}) > 1`] : []),
    ]),
  ]);
}

function quoted(name: string): string {
  return /^[a-z_]\w*$/.test(name) ? name : `"${name}"`;
}

async function answerOf({ design, database, made }: Made, query: string, compared: Compared): Promise<unknown> {
  const outcome = await runQuery(design, database.engine, {
    query: { kind: 'text', text: query, parameters: [] },
    parameters: {},
    sampleKeys: made.sampleKeys,
    madeHere: true,
    rowLimit: 10_000,
  });
  if (!outcome.ok) return { problems: [...outcome.findings.map(({ message }) => message), ...outcome.problems] };
  const rows: unknown = JSON.parse(outcome.answer.text);
  compared.answers += 1;
  compared.values += valuesIn(rows);
  return rows;
}

function valuesIn(value: unknown): number {
  if (typeof value !== 'object' || value === null) return 1;
  return Object.values(value).reduce((sum: number, inner) => sum + valuesIn(inner), 0);
}

function difference(what: string, one: Made, first: unknown, other: Made, second: unknown, text: string): Error {
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
