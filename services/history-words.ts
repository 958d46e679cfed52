import { notedSql } from '../core/changes/index.js';
import { readDesign, statedSqlOf } from '../core/design/index.js';
import type { DialectName } from '../core/notation/index.js';
import type { PlannedDatabase } from './plan-database.js';

/**
 * The SQL that a plan takes from the history of its database, and that is not in the database as it is. The history may be somebody
 * else's where the database is, so its words are looked at before they are run.
 *
 * @param text the text that the database would follow again; null where there is none
 */
export function wordsFromHistory(
  { seen, wished, undoes }: PlannedDatabase,
  text: string | null,
  dialect: DialectName,
): readonly string[] {
  const there = new Set(notedSql(seen).map(({ sql }) => sql));
  const wanted = [...sqlOf(wished), ...statedIn(text, dialect)].filter((sql) => !there.has(sql));
  return distinct([...wanted, ...(undoes?.byHand.flatMap(({ back }) => back ?? []) ?? [])]);
}

/**
 * The SQL that the history has of a plan once it is carried out: that of the schema which the plan makes, of a text that a person has
 * agreed to. What was in the database before may be somebody else's, and is no part of it.
 */
export function wordsForHistory({ wished }: PlannedDatabase): readonly string[] {
  return distinct(sqlOf(wished));
}

const sqlOf = (schema: PlannedDatabase['wished']): readonly string[] => notedSql(schema).map(({ sql }) => sql);

function statedIn(text: string | null, dialect: DialectName): readonly string[] {
  return text === null ? [] : statedSqlOf(readDesign(text, dialect).model, dialect).map(({ sql }) => sql);
}

function distinct(all: readonly string[]): readonly string[] {
  return Array.from(new Set(all));
}
