import { entityOf, holdingsOf, isPivot, lineage, type Model, type Relation } from '../model/index.js';
import { foreignTarget } from '../schema/index.js';
import { call, column, selectOf, type TableName, tableSource } from '../sql/index.js';
import type { Doing } from './doing.js';
import type { CommandWork } from './steps.js';
import type { WentAlong } from './told.js';

/** A table whose rows may go along with others, or be emptied of the keys of those. */
interface Watched {
  /** What its rows are: of an entity, or pairs of a relation. */
  readonly of: string;
  readonly table: TableName;
  /** The columns that may be emptied, with the role, or the relation, that they hold. */
  readonly columns: readonly { readonly name: string; readonly role: string }[];
}

/** How many rows a table has, and in how many of them each column is filled. */
type Counts = ReadonlyMap<string, readonly number[]>;

/** The tables that a delete of rows of an entity may reach, by the rules of the relations: over cascades as far as they go. */
export function reachedFrom(model: Model, entities: readonly string[]): readonly Watched[] {
  const watched = new Map<string, { of: string; table: TableName; columns: { name: string; role: string }[] }>();
  const watch = (of: string, table: TableName) => {
    const known = watched.get(table.name) ?? { of, table, columns: [] };
    watched.set(table.name, known);
    return known;
  };
  const seen = new Set<string>();
  const visit = (name: string) => {
    if (seen.has(name)) return;
    seen.add(name);
    for (const relation of model.relations.values()) {
      const held = holdingsOf(relation).keys.filter(({ target }) => isKin(model, name, target));
      if (held.length === 0) continue;
      if (isPivot(relation)) watch(relation.entity ?? relation.name, relation.table.value);
      else if (relation.onDelete.value === 'cascade') {
        // Of kinds whose tables are joined the base has each row once.
        const { kinds } = entityOf(model, relation.child);
        const whole = kinds?.storage.kind === 'joined tables' ? kinds.root : relation.child;
        for (const table of tablesOf(model, whole)) watch(whole, table);
        visit(relation.child);
      } else if (relation.onDelete.value === 'set null' || relation.onDelete.value === 'set default')
        for (const { columns } of held)
          for (const table of tablesOf(model, relation.child))
            watch(relation.child, table).columns.push(...columns.map(({ value }) => ({ name: value, role: roleOf(relation) })));
    }
  };
  for (const name of entities) visit(name);
  return Array.from(watched.values());
}

/** Is one of two entities a kind of the other, or the same? */
function isKin(model: Model, one: string, other: string): boolean {
  return [one, other].some((name, at) => lineage(model, name).some((above) => above.name === (at === 0 ? other : one)));
}

/** The tables in which the rows of an entity hold what it declares itself: each concrete kind's, where those stand apart. */
function tablesOf(model: Model, entity: string): readonly TableName[] {
  const target = foreignTarget(model, entity);
  return target.kind === 'table' ? [target.table] : target.tables;
}

function roleOf(relation: Relation): string {
  return holdingsOf(relation).holderRole ?? relation.name;
}

/** Counts the rows of tables as they stand within the transaction. */
export function* countIn(doing: Doing, watched: readonly Watched[]): CommandWork<Counts> {
  const counts = new Map<string, readonly number[]>();
  for (const { table, columns } of watched) {
    const counted = [{ kind: 'count rows' } as const, ...columns.map(({ name }) => call('count', column(null, name)))];
    const select = selectOf(tableSource(table), { columns: counted.map((expression) => ({ expression, as: null })) });
    const answer = yield { kind: 'read', sql: doing.dialect.printQuery(select), values: [] };
    const row = answer.kind === 'written' ? (answer.result.rows[0] ?? []) : [];
    counts.set(table.name, row.map(Number));
  }
  return counts;
}

/** What the database did to other rows of itself: what is less than the commands' own statements make it. */
export function alongWith(doing: Doing, watched: readonly Watched[], before: Counts, after: Counts): readonly WentAlong[] {
  return watched.flatMap(({ of, table, columns }): WentAlong[] => {
    const [had = 0, ...filled] = before.get(table.name) ?? [];
    const [has = 0, ...left] = after.get(table.name) ?? [];
    const gone = had + doing.netRows(table.name) - has;
    // Where rows went too, or commands wrote some, it cannot be told by counting which of them were emptied.
    const told = gone === 0 && !doing.hasWritten(table.name) ? columns : [];
    const emptied = told.flatMap(({ role }, at): WentAlong[] => {
      const rows = (filled[at] ?? 0) - (left[at] ?? 0);
      return rows > 0 ? [{ of, role, rows }] : [];
    });
    return gone > 0 ? [{ of, role: null, rows: gone }, ...emptied] : emptied;
  });
}
