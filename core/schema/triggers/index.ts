import { generatedName, type Model } from '../../model/index.js';
import {
  allOf,
  anyOf,
  column,
  columnsOf,
  type Delete,
  equal,
  existsIn,
  isFilled,
  itemsOf,
  not,
  type RowLock,
  type SqlExpression,
  selectOf,
  string,
  type Trigger,
  type TriggerAction,
  tableSource,
} from '../../sql/index.js';
import { formOf } from '../forms/index.js';
import type { EntityTables } from '../holders.js';
import type { ForeignKey, UnkeptRule } from '../schema.js';
import type { SchemaTarget, TableBuilder } from '../tables.js';
import { DeleteFlow } from './delete-flow.js';
import type { Among, Link, TargetTable } from './links.js';

/**
 * What foreign keys cannot keep, kept by triggers: that a row which is pointed at by type and id is there, and is of the
 * kind that is meant; and what happens to those that point at it when it goes or its key changes.
 *
 * @returns the rules that the engine cannot carry out; what they would change is refused there
 */
export function addTriggers(
  model: Model,
  target: SchemaTarget,
  tables: EntityTables,
  all: ReadonlyMap<string, TableBuilder>,
): UnkeptRule[] {
  const relations = Array.from(model.relations.values());
  const site = { model, tables };
  const links = relations.flatMap((relation): KeptLink[] =>
    formOf(relation)
      .links(relation, site, all)
      .map((link) => ({ ...link, relation: relation.name })),
  );
  const parts = partsOfRows(model, tables);
  const writer = new TriggerWriter(target, new DeleteFlow(links, all.values(), parts), parts);
  for (const group of grouped(links)) writer.guardChild(group);
  for (const link of links) {
    for (const place of link.places) {
      if (place.table === null) continue;
      if (link.when !== null) place.table.neverReuseKeys();
      if (!link.keyed) writer.keepRules(link, place, place.table);
      if (place.among !== null) writer.guardKind(link, place, place.table, place.among);
    }
  }
  writer.deleteWholeRows(all);
  if (!target.cascadesFireTriggers) writer.cascadeByTriggers(all);
  return writer.unkept;
}

/** A link, with the name of the relation that is kept by it. */
interface KeptLink extends Link {
  readonly relation: string;
}

/** The links that stand in the same columns: one trigger looks at all of them. */
function grouped(links: readonly KeptLink[]): KeptLink[][] {
  const groups = new Map<string, KeptLink[]>();
  for (const link of links) {
    const key = `${link.table.label}\n${link.columns.join('\n')}`;
    groups.set(key, [...(groups.get(key) ?? []), link]);
  }
  return Array.from(groups.values());
}

/** The tables that hold a part of each of their rows, with the one that holds the rest, and the key of both. */
export type PartsOfRows = ReadonlyMap<TableBuilder, { readonly table: TableBuilder; readonly key: readonly string[] }>;

/** The tables of kinds that are joined to their base's. */
function partsOfRows(model: Model, tables: EntityTables): PartsOfRows {
  const parts = new Map<TableBuilder, { table: TableBuilder; key: readonly string[] }>();
  for (const { name, kinds, key } of model.entities.values()) {
    if (kinds?.storage.kind !== 'joined tables' || kinds.base === null) continue;
    const table = tables.get(name);
    const whole = tables.get(kinds.root);
    if (table !== undefined && whole !== undefined) parts.set(table, { table: whole, key: key.columns });
  }
  return parts;
}

class TriggerWriter {
  readonly unkept: UnkeptRule[] = [];

  constructor(
    private readonly target: SchemaTarget,
    private readonly flow: DeleteFlow,
    private readonly parts: PartsOfRows,
  ) {}

  /** A row may point only at what is there. */
  guardChild(links: readonly KeptLink[]): void {
    const [first] = links;
    if (first === undefined) return;
    const { table, columns } = first;
    const actions = links.map((link): TriggerAction => {
      const filled = link.columns.map((name) => isFilled('new', name));
      const marked = link.when === null ? null : this.among('new', link.when);
      const missing = link.places.map((place) =>
        not(existsIn(place.name, this.found(link, place), { alias: 'there', lock: this.lockOf(place) })),
      );
      const rows = link.places.map(({ entity }) => entity).join(' or ');
      return {
        kind: 'refuse',
        when: all(marked, ...filled, ...missing),
        message: `${link.label}: there is no ${rows} of this key`,
      };
    });
    const mark = first.when === null ? [] : [first.when.column];
    for (const event of ['insert', 'update'] as const) {
      table.addTrigger(
        {
          name: generatedName(table.name.name, first.name, 'there', event),
          table: table.name,
          timing: 'before',
          event,
          columns: event === 'update' ? [...mark, ...columns] : [],
          when: null,
          actions,
        },
        first.relation,
      );
    }
  }

  /** What becomes of those that point at a row when it goes, or its key changes. */
  keepRules(link: KeptLink, place: TargetTable, table: TableBuilder): void {
    const trigger = (event: 'delete' | 'update', timing: Trigger['timing'], actions: readonly TriggerAction[]) => {
      const changed = anyOf(
        place.key.map(
          (name): SqlExpression => ({ kind: 'binary', operator: '<>', left: column('old', name), right: column('new', name) }),
        ),
      );
      table.addTrigger(
        {
          name: generatedName(table.name.name, link.table.name.name, link.name, event),
          table: table.name,
          timing,
          event,
          columns: event === 'update' ? place.key : [],
          when: event === 'update' ? changed : null,
          actions,
        },
        link.relation,
      );
    };
    const children = this.children(link, place);
    const refuse = (what: string): TriggerAction => ({
      kind: 'refuse',
      when: existsIn(link.table.name, children, { lock: 'latest' }),
      message: `${place.entity}: ${what}, since a row points at it over ${link.label}`,
    });
    const update = (columns: readonly string[], values: readonly SqlExpression[]): TriggerAction => {
      const set = columns.map((name, at) => ({ column: name, value: values[at] ?? NULL }));
      return { kind: 'run', change: { kind: 'update', table: link.table.name, set, where: children } };
    };
    const empty = update(link.emptied, []);
    const { onDelete, onUpdate } = this.carried(link, table);
    switch (onDelete) {
      case 'cascade':
        trigger('delete', 'after', [
          { kind: 'run', change: this.deletingWhole(link.table, this.goingAlong(link, place, children)) },
        ]);
        break;
      case 'set null':
      case 'set default':
        trigger('delete', 'after', [empty]);
        break;
      default:
        trigger('delete', 'before', [refuse('it cannot go')]);
    }
    switch (onUpdate) {
      case 'cascade': {
        const key = columnsOf('new', place.key);
        const held = link.held === null || link.types[0] === undefined ? key : this.target.values.toText(link.types[0], key);
        trigger('update', 'after', [update(link.columns, itemsOf(held))]);
        break;
      }
      case 'set null':
      case 'set default':
        trigger('update', 'after', [empty]);
        break;
      default:
        trigger('update', 'before', [refuse('its key cannot change')]);
    }
  }

  /**
   * The rules as triggers can carry them out. Where the engine lets no trigger change a table that a statement, or another
   * trigger, is at work in, one that comes back to where it began has to refuse.
   */
  private carried(link: Link, table: TableBuilder): Pick<Link, 'onDelete' | 'onUpdate'> {
    const { onDelete, onUpdate } = link;
    if (this.target.cascadesFireTriggers) return { onDelete, onUpdate };
    const changes = (rule: Link['onDelete']) => rule !== 'restrict' && rule !== 'no action';
    const unkept = (event: UnkeptRule['event']) => {
      this.unkept.push({ event, table: link.table.name.name, columns: link.columns, parent: table.name.name });
      return 'restrict' as const;
    };
    return {
      onDelete: changes(onDelete) && this.flow.reaches(link.table, table) ? unkept('delete') : onDelete,
      onUpdate: changes(onUpdate) && link.table === table ? unkept('update') : onUpdate,
    };
  }

  /** Rows of a table are deleted: where they are parts of others, all of those. */
  private deletingWhole(table: TableBuilder, where: SqlExpression): Delete {
    const whole = this.parts.get(table);
    if (whole === undefined) return { kind: 'delete', from: table.name, where };
    const columns = whole.key.map((name) => ({ expression: column(null, name), as: null }));
    const select = selectOf(tableSource(table.name), { columns, where });
    return { kind: 'delete', from: whole.table.name, where: { kind: 'in select', operand: columnsOf(null, whole.key), select } };
  }

  /**
   * Where the rest of a row stands in the table of its base, a foreign key that cascades would delete a part of it: a trigger
   * deletes the whole before.
   */
  deleteWholeRows(all: ReadonlyMap<string, TableBuilder>): void {
    const byName = new Map(Array.from(all.values(), (table) => [table.name.name.toLowerCase(), table]));
    for (const [table, whole] of this.parts)
      for (const key of table.cascadesTaken()) {
        const parent = byName.get(key.table.toLowerCase());
        const isPart = key.columns.join('\n') === whole.key.join('\n');
        if (parent === undefined || isPart) continue;
        if (!this.target.cascadesFireTriggers && this.flow.reaches(whole.table, parent)) {
          table.restrict(key, 'delete');
          this.unkept.push({ event: 'delete', table: table.name.name, columns: key.columns, parent: key.table });
          continue;
        }
        const own = equal(columnsOf(null, key.columns), columnsOf('old', key.references));
        parent.addTrigger(
          {
            name: generatedName(parent.name.name, table.name.name, ...key.columns, 'whole'),
            table: parent.name,
            timing: 'before',
            event: 'delete',
            columns: [],
            when: null,
            actions: [{ kind: 'run', change: this.deletingWhole(table, own) }],
          },
          null,
        );
      }
  }

  /** A row that is pointed at as one of a kind stays of that kind. */
  guardKind(link: KeptLink, place: TargetTable, table: TableBuilder, among: Among): void {
    table.addTrigger(
      {
        name: generatedName(table.name.name, link.table.name.name, link.name, 'kind'),
        table: table.name,
        timing: 'before',
        event: 'update',
        columns: [among.column],
        when: not(this.among('new', among)),
        actions: [
          {
            kind: 'refuse',
            when: existsIn(link.table.name, this.children(link, place), { lock: 'latest' }),
            message: `${place.entity}: its kind cannot change, since a row points at it over ${link.label}`,
          },
        ],
      },
      link.relation,
    );
  }

  /**
   * Where the engine fires no trigger on what a foreign key's rule deletes or changes: each cascade into a table that has
   * triggers on delete is carried out by a trigger itself, and so on upwards; a key that triggers look at does not change
   * with another's.
   */
  cascadeByTriggers(all: ReadonlyMap<string, TableBuilder>): void {
    const byName = new Map(Array.from(all.values(), (table) => [table.name.name.toLowerCase(), table]));
    const refused = (event: UnkeptRule['event'], table: TableBuilder, key: ForeignKey) =>
      this.unkept.push({ event, table: table.name.name, columns: key.columns, parent: key.table });
    for (const table of all.values()) {
      for (const key of table.keyChangesTaken()) {
        table.restrict(key, 'update');
        refused('update', table, key);
      }
    }
    const waiting = Array.from(all.values()).filter((table) => table.firesOnDelete);
    const done = new Set<TableBuilder>();
    for (let table = waiting.pop(); table !== undefined; table = waiting.pop()) {
      if (done.has(table)) continue;
      done.add(table);
      for (const key of table.cascadesTaken()) {
        const parent = byName.get(key.table.toLowerCase());
        if (parent === undefined) continue;
        table.restrict(key, 'delete');
        if (this.flow.reaches(table, parent)) {
          refused('delete', table, key);
          continue;
        }
        const own = equal(columnsOf(null, key.columns), columnsOf('old', key.references));
        parent.addTrigger(
          {
            name: generatedName(parent.name.name, table.name.name, ...key.columns, 'cascade'),
            table: parent.name,
            timing: 'before',
            event: 'delete',
            columns: [],
            when: null,
            actions: [{ kind: 'run', change: { kind: 'delete', from: table.name, where: own } }],
          },
          null,
        );
        waiting.push(parent);
      }
    }
  }

  /** The condition on a place under which it has the row that a new one points at. */
  private found(link: Link, place: TargetTable): SqlExpression {
    const held = columnsOf('new', link.columns);
    const key = columnsOf('there', place.key);
    const among = place.among === null ? null : this.among('there', place.among);
    const [type] = link.types;
    if (link.held === null || type === undefined) return all(among, equal(key, held));
    const { fromText, toText } = this.target.values;
    // By the key, which an index finds; and as text, since “01” and “1x” are read as 1 too.
    return all(among, equal(key, fromText(type, held)), equal(toText(type, key), held));
  }

  /** The condition on the rows that point at the one that goes, or changes. */
  private children(link: Link, place: TargetTable): SqlExpression {
    const key = columnsOf('old', place.key);
    const held = link.held === null || link.types[0] === undefined ? key : this.target.values.toText(link.types[0], key);
    const same = equal(columnsOf(null, link.columns), held);
    return all(link.when === null ? null : this.among(null, link.when), same);
  }

  /**
   * The rows that go with one. In a table that points at itself a trigger would have to fire again for each of them: where
   * that rests on the session, all are sought at once.
   */
  private goingAlong(link: Link, place: TargetTable, children: SqlExpression): SqlExpression {
    const [key, ...more] = place.key;
    const again = this.target.triggersRestOnSession && link.table === place.table;
    if (!again || key === undefined || more.length > 0) return children;
    const below = column('below', 'key');
    const held = link.held === null || link.types[0] === undefined ? below : this.target.values.toText(link.types[0], below);
    const marked = link.when === null ? null : this.among('self', link.when);
    const on = all(marked, equal(columnsOf('self', link.columns), held));
    const { name } = link.table;
    const first = selectOf(tableSource(name), { columns: [{ expression: column(null, key), as: null }], where: children });
    const next = selectOf(tableSource(name, 'self'), {
      columns: [{ expression: column('self', key), as: null }],
      joins: [{ kind: 'inner', source: tableSource({ schema: null, name: 'below' }), on }],
    });
    return { kind: 'in reach', operand: column(null, key), reach: { name: 'below', column: 'key', first, next } };
  }

  private among(source: string | null, { column: name, values }: Among): SqlExpression {
    // PostgreSQL writes a list that is read back in yet another way, these never.
    const each = values.map(
      (value): SqlExpression => ({ kind: 'binary', operator: '=', left: column(source, name), right: string(value) }),
    );
    return anyOf(each) ?? { kind: 'boolean', value: false };
  }

  /** A table that is somebody else's may be one to read only, which a lock would not do. */
  private lockOf({ table, among }: TargetTable): RowLock | null {
    if (table === null) return null;
    return among === null ? 'key' : 'row';
  }
}

const NULL: SqlExpression = { kind: 'null' };

/** Conditions that hold together. */
function all(...conditions: readonly (SqlExpression | null)[]): SqlExpression {
  return allOf(conditions) ?? { kind: 'boolean', value: true };
}
