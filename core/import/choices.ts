import { capitalCase, singular, snakeCase } from '../model/index.js';
import { quoteText } from '../notation/index.js';
import { LEAST_CHOICE_LENGTH, type ValueType } from '../values/index.js';
import { type ImportEngine, importEngines } from './engines.js';
import type { Existing } from './existing.js';
import type { Names } from './names.js';

/** The lists of texts that a database has as types, as choices of the notation. */
export interface Choices {
  /** Their declarations, one for each list that a column is of. */
  readonly blocks: readonly string[];
  /** The engine, with its enumerated types as choices. */
  readonly engine: ImportEngine;
}

/** Names the enumerated types that columns are of: after the type, or where it has no name after the column. */
export function choicesOf(existing: Existing, names: Names): Choices {
  const engine = importEngines[existing.dialect];
  const known = new Map<string, ValueType>();
  const blocks: string[] = [];
  for (const { name, values } of existing.choices) {
    const column = existing.schema.tables.flatMap(({ columns }) => columns).find(({ type }) => type === name);
    const sayable = values.length > 0 && values.every((value) => !/[\x00-\x1f\x7f]/.test(value));
    if (column === undefined || !sayable) continue;
    const bare = /^"?[\w. ]+"?$/.test(name) ? name.replaceAll('"', '').replace(/^.*\./, '') : column.name;
    const one = capitalCase(singular(snakeCase(bare)));
    const starts = /^[A-Z]/.test(one) ? one : `Choice${one}`;
    const choice = names.claim(`${starts}`, `${starts}Choice`, `${starts}Kind`);
    blocks.push([`choice ${choice}`, ...values.map((value) => `  ${quoteText(value)}`)].join('\n'));
    const length = Math.max(LEAST_CHOICE_LENGTH, ...values.map((value) => Array.from(value).length));
    known.set(name, { kind: 'choice', choice, values, length });
  }
  return { blocks, engine: { ...engine, typeOf: (declared) => known.get(declared) ?? engine.typeOf(declared) } };
}
