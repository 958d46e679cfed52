import type { Dialect } from '../dialects/index.js';
import type { Model } from '../model/index.js';
import { type ForeignKey, type Schema, schemaOf, type Table, triggerName } from '../schema/index.js';
import { column, placeOf, sqlTokens, type TableName } from '../sql/index.js';
import { type DeleteEdge, type DeleteEffect, edgesOfAction, PARENT } from './edges.js';

/** What a database does when a row is deleted, by its foreign keys and triggers. */
export interface DeleteGraph {
  readonly edges: readonly DeleteEdge[];
  /** The columns that tell the rows of a table apart, by the table's place; none where it has no key. */
  readonly keys: Readonly<Record<string, readonly string[]>>;
  /** Triggers on delete that somebody else wrote: what they do is not told by reading them. */
  readonly unforeseen: readonly { readonly table: TableName; readonly trigger: string }[];
}

const RULES: Readonly<Record<ForeignKey['onDelete'], DeleteEffect>> = {
  cascade: 'goes along',
  'set null': 'is emptied',
  'set default': 'gets its default',
  restrict: 'refuses',
  'no action': 'refuses at the end',
};

/**
 * What a database does when rows are deleted: by the foreign keys that it has, and by those triggers of it that the model asks for.
 * What the model says of a delete and nothing in the database does is told as such.
 *
 * @param actual the schema as it was read from the database
 */
export function deleteGraph(model: Model, dialect: Dialect, actual: Schema): DeleteGraph {
  const wished = schemaOf(model, dialect, { standIns: true }).schema;
  const made = new Map(wished.tables.map((table) => [placeOf(table.name), table]));
  const edges: DeleteEdge[] = [];
  const unforeseen: { table: TableName; trigger: string }[] = [];
  for (const table of actual.tables) {
    for (const key of table.foreignKeys) edges.push(edgeOfKey(table, key, actual));
    const own = made.get(placeOf(table.name));
    for (const trigger of table.triggers) {
      const known = own?.triggers.find((one) => one.kind === 'made' && triggerName(one) === triggerName(trigger));
      const found = known?.kind === 'made' ? edgesOfTrigger(table.name, known.trigger) : null;
      if (found !== null) edges.push(...found);
      else if (trigger.kind === 'written' && firesOnDelete(trigger.sql))
        unforeseen.push({ table: table.name, trigger: trigger.name });
    }
  }
  const there = withoutCarried(edges);
  return {
    edges: [...there, ...lackingIn(model, dialect, there, actual)],
    keys: Object.fromEntries(actual.tables.map(({ name, primaryKey }) => [placeOf(name), primaryKey.columns])),
    unforeseen,
  };
}

function edgeOfKey({ name: child }: Table, key: ForeignKey, schema: Schema): DeleteEdge {
  const parent = { schema: key.schema, name: key.table };
  const target = schema.tables.find(({ name }) => placeOf(name) === placeOf(parent));
  const references = key.references.length > 0 ? key.references : (target?.primaryKey.columns ?? []);
  return {
    parent: target?.name ?? parent,
    child,
    effect: RULES[key.onDelete],
    columns: key.columns,
    pairs: key.columns.map((name, at) => ({ held: column(null, name), key: column(PARENT, references[at] ?? name) })),
    where: [],
    by: key.name ?? '',
  };
}

type MadeTrigger = Extract<Table['triggers'][number], { kind: 'made' }>['trigger'];

/** The edges that a trigger of the model makes; null where it does something on delete that is none. */
function edgesOfTrigger(parent: TableName, trigger: MadeTrigger): readonly DeleteEdge[] | null {
  if (trigger.event !== 'delete') return [];
  const edges = trigger.actions.map((action) => edgesOfAction(parent, action, trigger.name));
  return edges.includes(null) || trigger.when !== null ? null : edges.flatMap((some) => some ?? []);
}

/** Whether a trigger's head names a delete among its events: they stand before the word “on” and the table. */
function firesOnDelete(sql: string): boolean {
  const words = sqlTokens(sql).filter(({ kind }) => kind === 'word');
  const on = words.findIndex(({ text }) => text.toLowerCase() === 'on');
  return words.slice(0, on).some(({ text }) => text.toLowerCase() === 'delete');
}

/** One text for the columns by which rows of a table point at those of another. */
function linkOf({ parent, child, columns, where }: DeleteEdge): string {
  // Rows of several kinds may point by the same columns, each with a rule of its own.
  return [placeOf(parent), placeOf(child), JSON.stringify(where), ...columns.map((name) => name.toLowerCase()).sort()].join('\n');
}

/** Edges, each link once: a foreign key that refuses is never come to where a trigger takes the rows away before. */
function withoutCarried(edges: readonly DeleteEdge[]): readonly DeleteEdge[] {
  const taken = new Map<string, DeleteEdge>();
  for (const edge of edges) if (edge.effect === 'goes along') taken.set(linkOf(edge), edge);
  return edges.filter((edge) => {
    const other = taken.get(linkOf(edge));
    return other === undefined || other === edge;
  });
}

/** The links of a model that nothing in the database looks after when a row is deleted. */
function lackingIn(model: Model, dialect: Dialect, there: readonly DeleteEdge[], actual: Schema): readonly DeleteEdge[] {
  const kept = new Set(there.map(linkOf));
  const tables = new Set(actual.tables.map(({ name }) => placeOf(name)));
  const { schema } = schemaOf(asIfKept(model), dialect, { standIns: true });
  const wanted = schema.tables.flatMap((table) => [
    ...table.foreignKeys.map((key) => edgeOfKey(table, key, schema)),
    ...table.triggers.flatMap((one) => (one.kind === 'made' ? (edgesOfTrigger(table.name, one.trigger) ?? []) : [])),
  ]);
  const lacking = new Map<string, DeleteEdge>();
  for (const edge of wanted) {
    const link = linkOf(edge);
    const isThere = [edge.parent, edge.child].every((table) => tables.has(placeOf(table)));
    if (isThere && !kept.has(link)) lacking.set(link, { ...edge, effect: 'stays', by: '' });
  }
  return Array.from(lacking.values());
}

/** A model of which every relation is kept, by a foreign key or by triggers, whatever its text leaves out. */
function asIfKept(model: Model): Model {
  const relations = new Map(
    Array.from(model.relations, ([name, relation]) => {
      const typed = 'storage' in relation && relation.storage.kind === 'type and id';
      return [name, typed ? { ...relation, storage: { ...relation.storage, triggers: true } } : relation] as const;
    }),
  );
  return { ...model, relations: relations as Model['relations'], physical: { ...model.physical, asStated: false } };
}
