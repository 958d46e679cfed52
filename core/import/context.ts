import type { Dialect } from '../dialects/index.js';
import { quoteText } from '../notation/index.js';
import type { ForeignKey, Table } from '../schema/index.js';
import type { ValueType } from '../values/index.js';
import type { ImportEngine } from './engines.js';
import type { GivenNames } from './existing.js';
import type { EntityTable, KeyLink } from './links.js';
import { written } from './names.js';
import type { Style } from './style.js';

/** The context that the sentences about all tables of a database share. */
export interface ImportContext {
  readonly engine: ImportEngine;
  readonly style: Style;
  /** The relations whose key columns stand in each entity's table. */
  readonly links: ReadonlyMap<EntityTable, readonly KeyLink[]>;
  /** Those that a check ties together to one relation, so that none has a role of its own. */
  readonly tied: ReadonlySet<KeyLink>;
  readonly given: GivenNames;
  /** The type that a column of an entity has: its own, or that of the key that it points at. */
  typeOf(entity: EntityTable, column: string): ValueType;
  /** Tables whose whole statement is kept, since their sentences do not say all of it. */
  readonly whole: ReadonlySet<string>;
  /** Checks, by table and SQL, that are kept as SQL. */
  readonly keptChecks: ReadonlySet<string>;
  readonly statements: ReadonlyMap<string, string>;
}

/** A line that keeps SQL, with one text for each of its lines. */
export function keptLine(sql: string, indent: string): string {
  const [first = '', ...others] = sql.replace(/\r\n?/g, '\n').split('\n').map(quoteText);
  return `${indent}kept ${[first, ...others.map((line) => `${indent}  ${line}`)].join(',\n')}`;
}

/** The statement of an index. */
export function indexSql(dialect: Dialect, table: Table, index: Table['indexes'][number]): string {
  if (index.sql !== null) return index.sql;
  const statements = dialect.createStatements({
    prelude: [],
    tables: [{ ...table, indexes: [index], triggers: [], foreignKeys: [], comment: null }],
    others: [],
  });
  return statements.find((sql) => /^create (unique )?index/i.test(sql)) ?? '';
}

/** A foreign key as a constraint of its table. */
export function foreignKeySql({ dialect }: ImportEngine, key: ForeignKey): string {
  return key.sql ?? dialect.foreignKey(key);
}

/** A name of the database's own: with a capital or without, bare where it can be. */
export function anyName(name: string): string {
  return /^[A-Z][A-Za-z0-9_]*$/.test(name) ? name : written(name);
}

/** Can a note hold this text? It has no way to write a line break. */
export function isSayable(text: string): boolean {
  return text !== '' && !/[\x00-\x1f\x7f]/.test(text);
}

/** The end of a line that states a constraint's name; empty where it has none. */
export function namedTail(name: string | null): string {
  return name === null ? '' : `, named ${anyName(name)}`;
}
