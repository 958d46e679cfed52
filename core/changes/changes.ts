import type { Check, ForeignKey, Table } from '../schema/index.js';
import { triggerName } from '../schema/index.js';
import type { TableName } from '../sql/index.js';
import { writtenPlace } from './answers.js';
import type { ColumnChange, Difference, Parts, TableChange } from './compare.js';
import { type TablePair, tableKey } from './pairs.js';

/** In the order in which a person reads: what is new, what changes, what goes. */
export type ChangeKind = 'new' | 'changed' | 'gone';

/** What a change is of. */
export type ChangeSubject =
  | 'table'
  | 'column'
  | 'primary key'
  | 'unique'
  | 'check'
  | 'foreign key'
  | 'index'
  | 'constraint'
  | 'trigger'
  | 'rows'
  | 'statement';

/** One thing that becomes otherwise. */
export interface Change {
  /** The same for the same change, whatever else changes: `column players.town`. */
  readonly id: string;
  readonly kind: ChangeKind;
  readonly subject: ChangeSubject;
  /** The table as it will be, or as it was where it goes; null for what stands beside tables. */
  readonly table: TableName | null;
  /** The column, or what a constraint is called. */
  readonly name: string | null;
  /** As a person reads it. */
  readonly sentence: string;
}

/**
 * All that becomes otherwise, one by one, as sentences.
 *
 * @param madeIn tables in which rows are made, so that others have something to point at
 */
export function changesOf(
  { made, gone, changed, prelude, others }: Difference,
  madeIn: readonly TableName[] = [],
): readonly Change[] {
  const all = [
    ...made.flatMap(madeTable),
    ...madeIn.map(
      (table): Change => of('new', 'rows', table, null, `Rows of ${writtenPlace(table)} are made, for others to point at.`),
    ),
    ...changed.flatMap((change) => {
      const told = changedTable(change);
      const { name } = change.after;
      return told.length > 0
        ? told
        : [of('changed', 'rows', name, null, `Rows of ${writtenPlace(name)} change, as the answers say.`)];
    }),
    ...gone.map((table): Change => of('gone', 'table', table.name, null, `Table ${writtenPlace(table.name)} goes.`)),
    ...[...prelude.made, ...others.made].map((sql) => statement('new', sql)),
    ...[...prelude.gone, ...others.gone].map((sql) => statement('gone', sql)),
  ];
  return KINDS.flatMap((kind) => all.filter((change) => change.kind === kind));
}

const KINDS: readonly ChangeKind[] = ['new', 'changed', 'gone'];

function of(kind: ChangeKind, subject: ChangeSubject, table: TableName, name: string | null, sentence: string): Change {
  const place = name === null ? writtenPlace(table) : writtenPlace(table, name);
  return { id: `${kind === 'gone' ? 'gone ' : ''}${subject} ${place}`, kind, subject, table, name, sentence };
}

/** A statement that stands by itself is told by how it begins. */
function statement(kind: 'new' | 'gone', sql: string): Change {
  const begins = sql.replace(/\s+/g, ' ').slice(0, 80);
  const named = namedBy(sql);
  return {
    id: `${kind === 'gone' ? 'gone ' : ''}statement ${begins}`,
    kind,
    subject: 'statement',
    table: null,
    name: null,
    sentence: named === null ? told(kind, begins) : `${named} ${kind === 'new' ? 'is made' : 'goes'}.`,
  };
}

function told(kind: 'new' | 'gone', begins: string): string {
  return kind === 'new' ? `“${begins}…” is made.` : `What “${begins}…” made goes.`;
}

/** What a statement makes, by its kind and its name; null where it does not say so plainly. */
function namedBy(sql: string): string | null {
  const [, kind, name] =
    /^create\s+(?:or\s+replace\s+)?(?:(?:materialized|recursive|constraint|unique|temp|temporary)\s+)*(function|procedure|view|type|domain|sequence|trigger|index)\s+(?:if\s+not\s+exists\s+)?((?:[\w$]+|"[^"]+"|`[^`]+`)(?:\.(?:[\w$]+|"[^"]+"|`[^`]+`))?)/i.exec(
      sql,
    ) ?? [];
  if (kind === undefined || name === undefined) return null;
  return `${kind.slice(0, 1).toUpperCase()}${kind.slice(1).toLowerCase()} ${name.replaceAll(/["`]/g, '')}`;
}

function madeTable({ after, columns }: TablePair): Change[] {
  if (after === null) return [];
  const many = columns.length === 1 ? '1 column' : `${columns.length} columns`;
  return [of('new', 'table', after.name, null, `Table ${writtenPlace(after.name)} is made, with ${many}.`)];
}

function changedTable(change: TableChange): Change[] {
  const { before, after } = change;
  const { name } = after;
  const place = (column: string) => writtenPlace(name, column);
  const made = <Part>(
    subject: ChangeSubject,
    parts: readonly Part[],
    named: (part: Part) => string,
    told: (part: Part) => string,
  ) => parts.map((part) => of('new', subject, name, named(part), told(part)));
  const gone = <Part>(
    subject: ChangeSubject,
    parts: readonly Part[],
    named: (part: Part) => string,
    told: (part: Part) => string,
  ) => parts.map((part) => of('gone', subject, name, named(part), told(part)));
  const isRenamed = tableKey(before.name) !== tableKey(name) || change.changed.some((column) => column.renamed);
  const both = <Part>(
    subject: ChangeSubject,
    all: Parts<Part>,
    named: (part: Part) => string,
    told: (part: Part) => string,
    meaning: (part: Part) => unknown,
  ) => {
    const parts = isRenamed ? renamedApart(all, meaning) : all;
    // One that goes, and another of its name that comes, is one that changes.
    const again = new Set(parts.gone.map(named).filter((one) => parts.made.some((part) => named(part) === one)));
    return [
      ...made(
        subject,
        parts.made.filter((part) => !again.has(named(part))),
        named,
        (part) => `${told(part)} is new.`,
      ),
      ...parts.made
        .filter((part) => again.has(named(part)))
        .map((part) => of('changed', subject, name, named(part), `${told(part)} changes.`)),
      ...gone(
        subject,
        parts.gone.filter((part) => !again.has(named(part))),
        named,
        (part) => `${told(part)} goes.`,
      ),
    ];
  };
  const list = (columns: readonly string[]) => columns.join(', ');
  return [
    ...(tableKey(before.name) === tableKey(name)
      ? []
      : [of('changed', 'table', name, null, `Table ${writtenPlace(before.name)} becomes ${writtenPlace(name)}.`)]),
    ...change.made.flatMap(({ after: column, movedFrom }) =>
      column === null
        ? []
        : [
            of(
              'new',
              'column',
              name,
              column.name,
              movedFrom === null
                ? `${place(column.name)} is new: ${column.type.toLowerCase()}, ${column.notNull ? 'required' : 'optional'}.`
                : `${place(column.name)} takes over the values of ${writtenPlace(movedFrom.table, movedFrom.column)}.`,
            ),
          ],
    ),
    ...change.changed.map((column) =>
      of('changed', 'column', name, column.after.name, columnSentence(place(column.after.name), column)),
    ),
    ...change.gone.map((column) =>
      of('gone', 'column', name, column.name, `${writtenPlace(before.name, column.name)} goes, with its values.`),
    ),
    ...(change.primaryKey
      ? [of('changed', 'primary key', name, null, `The key of ${writtenPlace(name)} becomes ${keyOf(after)}.`)]
      : []),
    ...both(
      'unique',
      change.uniques,
      ({ columns }) => list(columns),
      ({ columns }) => `That ${place(list(columns))} is unique`,
      ({ columns }) => columns,
    ),
    ...both(
      'check',
      apartFromTypes(change),
      (check) => check.name ?? check.expression,
      (check) => `The check ${check.name ?? check.expression} of ${writtenPlace(name)}`,
      ({ expression }) => expression,
    ),
    ...both(
      'foreign key',
      change.foreignKeys,
      ({ columns }) => list(columns),
      (key) => keySentence(place(list(key.columns)), key),
      (key) => ({ ...key, name: null }),
    ),
    ...both(
      'index',
      change.indexes,
      (index) => index.name,
      (index) => `Index ${index.name} of ${writtenPlace(name)}`,
      ({ columns, unique, sql }) => [columns, unique, sql],
    ),
    ...both('constraint', change.constraints, String, (sql) => `The constraint “${sql}” of ${writtenPlace(name)}`, String),
    ...both(
      'trigger',
      change.triggers,
      triggerName,
      (trigger) => `Trigger ${triggerName(trigger)} of ${writtenPlace(name)}`,
      triggerName,
    ),
    ...(change.options || change.statement
      ? [of('changed', 'table', name, 'options', `How ${writtenPlace(name)} is kept changes.`)]
      : []),
    ...(change.comment ? [of('changed', 'table', name, 'note', `The note of ${writtenPlace(name)} changes.`)] : []),
  ];
}

/** Parts without those that only have another name, as those of a table have that is called otherwise. */
function renamedApart<Part>({ gone, made }: Parts<Part>, meaning: (part: Part) => unknown): Parts<Part> {
  const left = gone.map((part) => ({ part, means: JSON.stringify(meaning(part)) }));
  const others = made.filter((part) => {
    const same = left.findIndex(({ means }) => means === JSON.stringify(meaning(part)));
    if (same === -1) return true;
    left.splice(same, 1);
    return false;
  });
  return { gone: left.map(({ part }) => part), made: others };
}

/** The checks that are more than what a column's type asks for: those come and go with the column. */
function apartFromTypes({ checks, made, gone, changed }: TableChange): TableChange['checks'] {
  const told = new Set(
    [...made.flatMap(({ after }) => after ?? []), ...gone, ...changed.flatMap(({ before, after }) => [before, after])].map(
      ({ name }) => name,
    ),
  );
  const isApart = ({ name }: Check) => name === null || !Array.from(told).some((column) => name.endsWith(`_${column}_type`));
  return { made: checks.made.filter(isApart), gone: checks.gone.filter(isApart) };
}

function keyOf({ primaryKey }: Table): string {
  return primaryKey.columns.length === 0 ? 'none' : primaryKey.columns.join(', ');
}

function keySentence(place: string, key: ForeignKey): string {
  return `The key ${place} to ${writtenPlace({ schema: key.schema, name: key.table })}, on delete ${key.onDelete},`;
}

function columnSentence(place: string, { before, after, ...how }: ColumnChange): string {
  const parts = [
    how.renamed ? `was called ${before.name}` : null,
    how.type && before.type.toLowerCase() === after.type.toLowerCase() ? `has the values that ${after.type} lists` : null,
    how.type && before.type.toLowerCase() !== after.type.toLowerCase()
      ? `becomes ${after.type.toLowerCase()} (it is ${before.type.toLowerCase()})`
      : null,
    how.notNull ? `becomes ${after.notNull ? 'required' : 'optional'}` : null,
    how.default ? (after.default === null ? 'has no default any more' : `has ${after.default} by default`) : null,
    how.collation ? `is compared by ${after.collation ?? 'the engine’s own rule'}` : null,
    how.generated ? (after.generated === null ? 'is computed no more' : 'is computed in another way') : null,
    how.comment ? 'has another note' : null,
  ].filter((part) => part !== null);
  return `${place} ${parts.join(', and ')}.`;
}
