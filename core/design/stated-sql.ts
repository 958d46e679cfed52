import type { Field, Model } from '../model/index.js';
import type { DialectName, Span } from '../notation/index.js';
import { qualifiersIn, reachesOf, statedTokens } from '../sql/index.js';

/** SQL that a text states itself, and that an engine runs as it stands when the tables are made or filled. */
export interface StatedSql {
  readonly sql: string;
  readonly span: Span;
  /** In what it reaches beyond the tables of its own database, in words. */
  readonly reaches: readonly string[];
  /** The names before a dot in it: on MariaDB they may be other databases. */
  readonly qualifiers: readonly string[];
}

/** Functions that a default or a computed column may call without anybody being asked: they read and write nothing. */
const HARMLESS = new Set(
  `abs cast ceil ceiling char char_length coalesce concat concat_ws curdate current_date current_time current_timestamp curtime
  date datetime extract floor gen_random_uuid greatest hex if ifnull iif json json_array json_extract json_object json_value
  julianday least left length localtime localtimestamp lower ltrim md5 mod nextval now nullif octet_length random replace right
  round rtrim strftime substr substring sysdate time timestamp to_tsvector trim trunc unix_timestamp upper utc_timestamp uuid`.split(
    /\s+/,
  ),
);

/** All SQL that a text states for a dialect, in its order; types, and defaults that do no more than compute, are left out. */
export function statedSqlOf(model: Model, dialect: DialectName): StatedSql[] {
  const relations = Array.from(model.relations.values());
  const kept = [
    ...model.kept,
    ...Array.from(model.entities.values()).flatMap((entity) => entity.kept),
    ...relations.flatMap((relation) => ('keptInTable' in relation ? [...relation.kept, ...relation.keptInTable] : relation.kept)),
  ].filter((one) => one.dialect === dialect);
  const fields =
    model.dialect === dialect
      ? [
          ...Array.from(model.entities.values()).flatMap((entity) => entity.fields),
          ...relations.flatMap((relation) => ('keptInTable' in relation ? relation.fields : [])),
        ]
      : [];
  const stated = [
    ...kept.map(({ sql, span }) => stating(sql, span, dialect)),
    ...fields.flatMap((field) => expressionsOf(field, dialect).map((sql) => stating(sql, field.span, dialect))),
  ].filter((one) => one !== null);
  return stated.sort((a, b) => a.span.start - b.span.start);
}

function stating(sql: string, span: Span, dialect: DialectName): StatedSql | null {
  const tokens = statedTokens(sql, dialect);
  if ('why' in tokens) return null;
  return { sql, span, reaches: reachesOf(dialect, tokens), qualifiers: Array.from(qualifiersIn(tokens)) };
}

/** What of a field an engine computes, where it calls more than what is harmless. */
function expressionsOf({ default: value, physical, type }: Field, dialect: DialectName): string[] {
  const stated = [
    ...(value?.kind === 'sql' ? [value.sql] : []),
    ...(physical.generated === null ? [] : [physical.generated.sql]),
  ];
  return type.kind === 'composite' ? [] : stated.filter((sql) => callsMore(sql, dialect));
}

/** Whether it calls a function of which nobody knows that it is harmless. */
function callsMore(sql: string, dialect: DialectName): boolean {
  const tokens = statedTokens(sql, dialect);
  if ('why' in tokens) return true;
  return tokens.some(({ kind, word }, index) => {
    const next = tokens[index + 1];
    const isCall = (kind === 'word' || kind === 'quoted') && next?.kind === 'symbol' && next.text === '(';
    return isCall && !HARMLESS.has(word.toLowerCase());
  });
}
