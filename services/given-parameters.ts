import type { Design } from '../core/design/index.js';
import { keyOfRow } from '../core/load/index.js';
import { entityOf, nameInList, type Parameter, type Query } from '../core/model/index.js';
import type { ParameterSyntax } from '../core/notation/index.js';
import type { GivenParameters } from './found-query.js';

/** As many values as a list may have: each is bound by itself. */
const MOST_IN_LIST = 1000;

/** A query whose lists have as many places as values are given, and the values one by one. */
export interface Filled {
  readonly query: Query;
  readonly parameters: GivenParameters;
}

/**
 * Takes lists apart: `mint, worn`, or a JSON list where values hold commas. The query is read again for so many values, and is the
 * same for the same number of them.
 *
 * @param text the query's own lines, and how it declares its parameters
 */
export function withListsFilled(
  design: Design,
  query: Query,
  text: { readonly lines: string; readonly parameters: readonly ParameterSyntax[] },
  parameters: GivenParameters,
): Filled | { readonly problems: readonly string[] } {
  const lists = query.parameters.filter(({ many }) => many);
  if (lists.length === 0) return { query, parameters };
  const filled: Record<string, string | null> = { ...parameters };
  const sizes = new Map<string, number>();
  const problems: string[] = [];
  for (const { name } of lists) {
    const written = Object.hasOwn(parameters, name) ? (parameters[name] ?? null) : null;
    const values =
      written === null
        ? `The query needs a list for ${name}: values with commas between, or a JSON list.`
        : listIn(name, written);
    if (typeof values === 'string') {
      problems.push(values);
      continue;
    }
    sizes.set(name, values.length);
    for (const [index, value] of values.entries()) filled[nameInList(name, index)] = value;
  }
  const again = problems.length > 0 ? null : design.queryOf(text.lines, text.parameters, sizes).query;
  return again === null ? { problems } : { query: again, parameters: filled };
}

/** The values of a written list; else why it is none, in words. */
function listIn(name: string, written: string): readonly string[] | string {
  const text = written.trim();
  const values = text.startsWith('[') ? jsonList(text) : text === '' ? [] : text.split(',').map((value) => value.trim());
  if (values === null) return `${name}: this is no JSON list of texts, numbers and booleans, as in ["mint", "worn"].`;
  if (values.length > MOST_IN_LIST)
    return `${name} has ${values.length.toLocaleString('en')} values, and takes ${MOST_IN_LIST.toLocaleString('en')} at most.`;
  return values;
}

function jsonList(text: string): readonly string[] | null {
  let parsed: unknown;
  try {
    parsed = JSON.parse(text);
  } catch {
    return null;
  }
  if (!Array.isArray(parsed)) return null;
  // A key of several parts is a list of its own.
  const isValue = (value: unknown) => Array.isArray(value) || ['string', 'number', 'boolean'].includes(typeof value);
  return parsed.every(isValue) ? parsed.map((value) => (Array.isArray(value) ? JSON.stringify(value) : String(value))) : null;
}

/** A row that is given by a unique field: `Player[email = 'ines@example.org']`. */
export interface FoundRow {
  readonly parameter: string;
  readonly entity: string;
  /** A query for the rows of which it is true: there has to be one. */
  readonly query: string;
}

const FOUND = /^\s*(\w+)\s*\[([\s\S]+)\]\s*$/;

/** The parameters that are rows and given by a condition, each with the query that finds the row. */
export function rowsToFind(parameters: readonly Parameter[], given: GivenParameters): FoundRow[] {
  return parameters.flatMap(({ name, type }) => {
    const [, entity, condition] = FOUND.exec((Object.hasOwn(given, name) ? given[name] : null) ?? '') ?? [];
    if (type.kind !== 'row' || entity === undefined || condition === undefined) return [];
    return [{ parameter: name, entity: type.entity, query: `from ${entity}\nwhere ${condition}\nlimit 2` }];
  });
}

/** The key of an answered row as it is given for a parameter. */
export function keyOfAnswer({ model }: Design, entity: string, row: Readonly<Record<string, unknown>>): string {
  return String(keyOfRow(entityOf(model, entity), row) ?? '');
}
