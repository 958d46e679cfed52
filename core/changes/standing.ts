import { OWN_PREFIX } from '../schema/index.js';
import type { TableName } from '../sql/index.js';
import { writtenPlace } from './answers.js';
import { bareTypeName, enumeratedTypes } from './enumerated.js';
import type { Operation } from './operation.js';
import type { Working } from './working.js';

/** A type of its own that columns have. */
export interface StandingType {
  readonly kind: 'type' | 'domain';
  /** As SQL says it. */
  readonly name: string;
}

/** How an engine spells what changes things that stand beside tables. Each is told by the statement that made it. */
export interface StandingSpelling {
  /** What a thing is taken away by; null where it stays. */
  dropOf(sql: string): string | null;
  /** How a thing becomes what a statement makes, under the same name; null where it has to be made anew. */
  alterOf(sql: string): string | null;
  /** The type that a statement makes; null where it makes none. */
  typeOf(sql: string): StandingType | null;
}

/** What it takes to change what tables stand on. */
export interface StandingAround {
  readonly working: Working;
  readonly spelling: StandingSpelling;
  /** A table as SQL says it. */
  name(table: TableName): string;
}

/** What tables stand on is made, or becomes another where one of its name stands there. */
export function standingMade(around: StandingAround, sql: string): Operation[] {
  const { spelling } = around;
  const former = formerOf(around, sql);
  const altered = former === null ? null : spelling.alterOf(sql);
  if (altered !== null) return [define(altered, 'what tables stand on')];
  const type = former === null ? null : spelling.typeOf(sql);
  if (type === null) return [define(sql, 'what tables stand on')];
  // Columns of the former type are of the new one before that goes: its values go over as texts.
  return [
    define(`alter ${type.kind} ${type.name} rename to ${besideType(type.name)}`, 'a type makes place for another of its name'),
    define(sql, 'what tables stand on'),
    ...ofNewType(around, type, sql),
  ];
}

/** What tables stood on goes, where it became another of its name; null where it goes by itself. */
export function standingGone(around: StandingAround, sql: string): Operation[] | null {
  const { working, spelling } = around;
  const again = working.difference.prelude.made.find((one) => formerOf(around, one) === sql);
  if (again === undefined) return null;
  if (spelling.alterOf(again) !== null) return [];
  const type = spelling.typeOf(sql);
  return type === null ? null : [define(`drop ${type.kind} ${besideType(type.name)}`, 'what tables stood on goes')];
}

/** The statement that made what stands there under the name of what another makes; null where nothing does. */
function formerOf({ working, spelling }: StandingAround, sql: string): string | null {
  const dropped = spelling.dropOf(sql);
  if (dropped === null) return null;
  return working.difference.prelude.gone.find((one) => spelling.dropOf(one) === dropped) ?? null;
}

function ofNewType({ working, name }: StandingAround, type: StandingType, sql: string): Operation[] {
  const { quote } = working.dialect;
  return working.paired.tables.flatMap(({ before, after, columns }) =>
    before === null || after === null
      ? []
      : columns.flatMap((pair) => {
          if (pair.before === null || pair.after === null || pair.before.type !== pair.after.type) return [];
          const many = pair.before.type.endsWith('[]') ? '[]' : '';
          if (bareTypeName(pair.before.type.slice(0, pair.before.type.length - many.length)) !== bareTypeName(type.name))
            return [];
          const column = quote(pair.after.name);
          const isListed = many === '' && enumeratedTypes([sql]).size > 0;
          // Its values may be others: they are texts until they are what they are to be.
          if (isListed) {
            const text = `alter column ${column} drop default, alter column ${column} type text using ${column}::text`;
            return [retyped(after.name, `alter table ${name(after.name)} ${text}`)];
          }
          const value = `${column}${type.kind === 'domain' ? '' : `::text${many}`}::${type.name}${many}`;
          const set = pair.after.default === null ? [] : [`alter column ${column} set default ${pair.after.default}`];
          const parts = [
            `alter column ${column} drop default`,
            `alter column ${column} type ${type.name}${many} using ${value}`,
            ...set,
          ];
          return [retyped(after.name, `alter table ${name(after.name)} ${parts.join(', ')}`)];
        }),
  );
}

function retyped(table: TableName, sql: string): Operation {
  return { ...define(sql, 'a column has the type as it is now'), table: writtenPlace(table) };
}

function define(sql: string, what: string): Operation {
  return { kind: 'define', sql, what, table: null };
}

/** What a type is called while another takes its name. */
function besideType(name: string): string {
  return `${OWN_PREFIX}was_${bareTypeName(name)}`;
}
