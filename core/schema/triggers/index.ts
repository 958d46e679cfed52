import { generatedName, type Model } from '../../model/index.js';
import { allOf, anyOf, column, columnsOf, equal, type SqlExpression, string } from '../../sql/index.js';
import { formOf } from '../forms/index.js';
import type { EntityTables } from '../holders.js';
import type { ForeignKey, Trigger, TriggerAction, UnkeptRule } from '../schema.js';
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
  const links = relations.flatMap((relation) => formOf(relation).links(relation, site, all));
  const writer = new TriggerWriter(target, new DeleteFlow(links, all.values()));
  for (const group of grouped(links)) writer.guardChild(group);
  for (const link of links) {
    for (const place of link.places) {
      if (place.table === null) continue;
      if (link.when !== null) place.table.neverReuseKeys();
      if (!link.keyed) writer.keepRules(link, place, place.table);
      if (place.among !== null) writer.guardKind(link, place, place.table, place.among);
    }
  }
  if (!target.cascadesFireTriggers) writer.cascadeByTriggers(all);
  return writer.unkept;
}

/** The links that stand in the same columns: one trigger looks at all of them. */
function grouped(links: readonly Link[]): Link[][] {
  const groups = new Map<string, Link[]>();
  for (const link of links) {
    const key = `${link.table.label}\n${link.columns.join('\n')}`;
    groups.set(key, [...(groups.get(key) ?? []), link]);
  }
  return Array.from(groups.values());
}

class TriggerWriter {
  readonly unkept: UnkeptRule[] = [];

  constructor(
    private readonly target: SchemaTarget,
    private readonly flow: DeleteFlow,
  ) {}

  /** A row may point only at what is there. */
  guardChild(links: readonly Link[]): void {
    const [first] = links;
    if (first === undefined) return;
    const { table, columns } = first;
    const actions = links.map((link): TriggerAction => {
      const filled = link.columns.map(
        (name): SqlExpression => ({ kind: 'is null', operand: column('new', name), negated: true }),
      );
      const marked = link.when === null ? null : this.among('new', link.when);
      const missing = link.places.map((place) => `not ${this.exists(place.name, this.found(link, place), this.lockOf(place))}`);
      const rows = link.places.map(({ entity }) => entity).join(' or ');
      return {
        kind: 'refuse',
        when: [this.print(allOf([marked, ...filled])), ...missing].join(' and '),
        message: `${link.label}: there is no ${rows} of this key`,
      };
    });
    const mark = first.when === null ? [] : [first.when.column];
    for (const event of ['insert', 'update'] as const) {
      table.addTrigger({
        name: generatedName(table.name.name, first.name, 'there', event),
        table: table.name,
        timing: 'before',
        event,
        columns: event === 'update' ? [...mark, ...columns] : [],
        when: null,
        actions,
      });
    }
  }

  /** What becomes of those that point at a row when it goes, or its key changes. */
  keepRules(link: Link, place: TargetTable, table: TableBuilder): void {
    const trigger = (event: 'delete' | 'update', timing: Trigger['timing'], actions: readonly TriggerAction[]) => {
      const changed = this.print(
        place.key
          .map(
            (name): SqlExpression => ({ kind: 'binary', operator: '<>', left: column('old', name), right: column('new', name) }),
          )
          .reduce((left, right): SqlExpression => ({ kind: 'binary', operator: 'or', left, right })),
      );
      table.addTrigger({
        name: generatedName(table.name.name, link.table.name.name, link.name, event),
        table: table.name,
        timing,
        event,
        columns: event === 'update' ? place.key : [],
        when: event === 'update' ? changed : null,
        actions,
      });
    };
    const children = this.children(link, place);
    const refuse = (what: string): TriggerAction => ({
      kind: 'refuse',
      when: this.exists(link.table.name, children, this.target.looks.children),
      message: `${place.entity}: ${what}, since a row points at it over ${link.label}`,
    });
    const emptied = link.emptied.map((name) => `${this.target.quote(name)} = null`).join(', ');
    const empty: TriggerAction = { kind: 'run', sql: `update ${this.name(link.table.name)} set ${emptied} where ${children}` };
    const { onDelete, onUpdate } = this.carried(link, table);
    switch (onDelete) {
      case 'cascade':
        trigger('delete', 'after', [
          { kind: 'run', sql: `delete from ${this.name(link.table.name)} where ${this.goingAlong(link, place, children)}` },
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
        const parts = held.kind === 'tuple' ? held.items : [held];
        const set = link.columns.map(
          (name, index) => `${this.target.quote(name)} = ${this.print(parts[index] ?? { kind: 'null' })}`,
        );
        trigger('update', 'after', [
          { kind: 'run', sql: `update ${this.name(link.table.name)} set ${set.join(', ')} where ${children}` },
        ]);
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

  /** A row that is pointed at as one of a kind stays of that kind. */
  guardKind(link: Link, place: TargetTable, table: TableBuilder, among: Among): void {
    const stays = this.print(this.among('new', among));
    table.addTrigger({
      name: generatedName(table.name.name, link.table.name.name, link.name, 'kind'),
      table: table.name,
      timing: 'before',
      event: 'update',
      columns: [among.column],
      when: `not (${stays})`,
      actions: [
        {
          kind: 'refuse',
          when: this.exists(link.table.name, this.children(link, place), this.target.looks.children),
          message: `${place.entity}: its kind cannot change, since a row points at it over ${link.label}`,
        },
      ],
    });
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
        parent.addTrigger({
          name: generatedName(parent.name.name, table.name.name, ...key.columns, 'cascade'),
          table: parent.name,
          timing: 'before',
          event: 'delete',
          columns: [],
          when: null,
          actions: [{ kind: 'run', sql: `delete from ${this.name(table.name)} where ${this.print(own)}` }],
        });
        waiting.push(parent);
      }
    }
  }

  /** The condition on a place under which it has the row that a new one points at. */
  private found(link: Link, place: TargetTable): string {
    const held = columnsOf('new', link.columns);
    const key = columnsOf('there', place.key);
    const among = place.among === null ? null : this.among('there', place.among);
    const [type] = link.types;
    if (link.held === null || type === undefined) return this.print(allOf([among, equal(key, held)]));
    const { fromText, toText } = this.target.values;
    // By the key, which an index finds; and as text, since “01” and “1x” are read as 1 too.
    return this.print(allOf([among, equal(key, fromText(type, held)), equal(toText(type, key), held)]));
  }

  /** The condition on the rows that point at the one that goes, or changes. */
  private children(link: Link, place: TargetTable): string {
    const key = columnsOf('old', place.key);
    const held = link.held === null || link.types[0] === undefined ? key : this.target.values.toText(link.types[0], key);
    const same = equal(columnsOf(null, link.columns), held);
    return this.print(allOf([link.when === null ? null : this.among(null, link.when), same]));
  }

  /**
   * The rows that go with one. In a table that points at itself a trigger would have to fire again for each of them: where
   * that rests on the session, all are sought at once.
   */
  private goingAlong(link: Link, place: TargetTable, children: string): string {
    const [key, ...more] = place.key;
    const again = this.target.triggersRestOnSession && link.table === place.table;
    if (!again || key === undefined || more.length > 0) return children;
    const below = columnsOf('below', ['key']);
    const held = link.held === null || link.types[0] === undefined ? below : this.target.values.toText(link.types[0], below);
    const marked = link.when === null ? null : this.among('self', link.when);
    const next = this.print(allOf([marked, equal(columnsOf('self', link.columns), held)]));
    const [name, own] = [this.name(link.table.name), this.target.quote(key)];
    return `${own} in (
    with recursive below ("key") as (
      select ${own} from ${name} where ${children}
      union select self.${own} from ${name} self join below on ${next}
    )
    select "key" from below)`;
  }

  private among(source: string | null, { column: name, values }: Among): SqlExpression {
    // PostgreSQL writes a list that is read back in yet another way, these never.
    const each = values.map(
      (value): SqlExpression => ({ kind: 'binary', operator: '=', left: column(source, name), right: string(value) }),
    );
    return anyOf(each) ?? { kind: 'boolean', value: false };
  }

  /** A table that is somebody else's may be one to read only, which a lock would not do. */
  private lockOf({ table, among }: TargetTable): string {
    if (table === null) return '';
    return among === null ? this.target.looks.there : this.target.looks.ofKind;
  }

  private exists(table: TableBuilder['name'], condition: string, lock: string): string {
    const there = condition.includes('there.') ? ' there' : '';
    return `exists (select 1 from ${this.name(table)}${there} where ${condition}${lock})`;
  }

  private name({ schema, name }: TableBuilder['name']): string {
    return `${schema === null ? '' : `${this.target.quote(schema)}.`}${this.target.quote(name)}`;
  }

  private print(expression: SqlExpression | null): string {
    return expression === null ? '' : this.target.print(expression);
  }
}
