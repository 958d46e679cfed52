import { quoteText } from '../core/notation/index.js';

/**
 * A model of rows that knows no SQL: what commands do to a few entities with relations between them, by the words of the notation
 * alone. What it comes to is compared with a database.
 */

/** A relation by a key: the child holds it. */
export interface NaiveKey {
  readonly kind: 'key';
  readonly child: number;
  readonly parent: number;
  readonly required: boolean;
  /** The parent knows one child at most. */
  readonly one: boolean;
  readonly onDelete: 'cascade' | 'set null' | 'restrict';
}

/** A relation by pairs; of one entity with itself it may be the same both ways. */
export interface NaivePairs {
  readonly kind: 'pairs';
  readonly near: number;
  readonly far: number;
  readonly symmetric: boolean;
}

export interface NaiveTree {
  /** Of each entity, whether its labels are unique. */
  readonly entities: readonly { readonly unique: boolean }[];
  readonly relations: readonly (NaiveKey | NaivePairs)[];
}

/** Something that is done to rows; a row is known by its entity and its key. */
export type NaiveCommand =
  | {
      readonly kind: 'create' | 'find or create' | 'create or update';
      readonly entity: number;
      readonly id: number;
      readonly label: string;
      readonly level: number | null;
      readonly refs: readonly (number | null)[];
    }
  | {
      readonly kind: 'update';
      readonly entity: number;
      readonly of: Meant;
      readonly set: Readonly<{ label?: string; level?: number | null; refs: Readonly<Record<number, number | null>> }>;
    }
  | { readonly kind: 'delete'; readonly entity: number; readonly of: Meant }
  | { readonly kind: 'link' | 'unlink'; readonly relation: number; readonly near: number; readonly far: number };

/** A row by its key, or the rows of a condition. */
export type Meant = { readonly id: number } | { readonly above: number };

/** Why a command is refused. */
export type Reason = 'unique' | 'required' | 'check' | 'restrict' | 'missing' | 'several' | 'itself' | 'any of several';

/** A command that the rules leave open: an engine may refuse it or not, by the order in which it goes through rows. */
export class EitherWay extends Error {}

class Refused extends Error {
  constructor(readonly reason: Reason) {
    super(reason);
  }
}

interface NaiveRow {
  label: string;
  level: number | null;
  /** The key of the other row, by the relation's place. */
  readonly refs: Map<number, number | null>;
}

const MOST_LEVEL = 5;

/** The text of a tree in the notation. */
export function textOf({ entities, relations }: NaiveTree): string {
  const declared = entities.map(
    ({ unique }, at) => `entity E${at} in table_${at}
  id     integer key
  label  text(20)${unique ? ' unique' : ''}
  level  integer optional
  check low_${at}: level is null or level < ${MOST_LEVEL}, message 'Its level is too high'`,
  );
  const related = relations.map((relation, at) => {
    if (relation.kind === 'key') {
      const { child, parent, required, one, onDelete } = relation;
      return `relation k${at}
  E${child} knows ${required ? 'one' : 'at most one'} E${parent} as up_${at}
  E${parent} knows ${one ? 'at most one' : 'many'} E${child} as down_${at}
  stored in E${child}.up_${at}_id as up_${at}
  on delete ${onDelete}`;
    }
    const { near, far, symmetric } = relation;
    return symmetric
      ? `relation p${at}
  E${near} knows many E${far} as near_${at}, both ways`
      : `relation p${at}
  E${near} knows many E${far} as near_${at}
  E${far} knows many E${near} as far_${at}`;
  });
  const none = entities.map((_, at) => `sample E${at} 0`);
  return `tree 'Naive'\n\n${[...declared, ...related, ...none].join('\n\n')}\n`;
}

/** A command in the notation. */
export function commandText({ relations }: NaiveTree, command: NaiveCommand): string {
  const meant = (entity: number, of: Meant) => ('id' in of ? `E${entity}(${of.id})` : `E${entity}[level > ${of.above}]`);
  const refText = (relation: number, to: number | null) => {
    const key = relations[relation];
    return `up_${relation} ${to === null || key?.kind !== 'key' ? 'null' : `E${key.parent}(${to})`}`;
  };
  switch (command.kind) {
    case 'create':
    case 'find or create':
    case 'create or update': {
      const { kind, entity, id, label, level, refs } = command;
      const own = refs.flatMap((to, relation) =>
        isOwn(relations[relation], entity) && to !== null ? [refText(relation, to)] : [],
      );
      const values = [...(level === null ? [] : [`level ${level}`]), ...own];
      if (kind === 'create') return `create E${entity} with ${[`id ${id}`, `label ${quoteText(label)}`, ...values].join(', ')}`;
      return `${kind} E${entity}[label = ${quoteText(label)}] with ${[`id ${id}`, ...values].join(', ')}`;
    }
    case 'update': {
      const { entity, of, set } = command;
      const parts = [
        ...(set.label === undefined ? [] : [`label ${quoteText(set.label)}`]),
        ...(set.level === undefined ? [] : [`level ${set.level ?? 'null'}`]),
        ...Object.entries(set.refs).map(([relation, to]) => refText(Number(relation), to)),
      ];
      return `update ${meant(entity, of)} with ${parts.join(', ')}`;
    }
    case 'delete':
      return `delete ${meant(command.entity, command.of)}`;
    case 'link':
    case 'unlink': {
      const { kind, relation, near, far } = command;
      const to = kind === 'link' ? 'to' : 'from';
      const over = relations[relation];
      if (over === undefined) return '';
      return over.kind === 'key'
        ? `${kind} E${over.parent}(${far}).down_${relation} ${to} E${over.child}(${near})`
        : `${kind} E${over.near}(${near}).near_${relation} ${to} E${over.far}(${far})`;
    }
  }
}

function isOwn(relation: NaiveKey | NaivePairs | undefined, entity: number): relation is NaiveKey {
  return relation?.kind === 'key' && relation.child === entity;
}

/** The rows of a tree, as commands leave them. */
export class NaiveRows {
  constructor(
    private readonly tree: NaiveTree,
    private rows: readonly Map<number, NaiveRow>[] = tree.entities.map(() => new Map()),
    private pairs: readonly Set<string>[] = tree.relations.map(() => new Set()),
  ) {}

  /** Carries commands out, all or none. @returns why one was refused, or null @throws {EitherWay} */
  carryOut(commands: readonly NaiveCommand[]): Reason | null {
    const [rows, pairs] = [this.rows, this.pairs];
    this.rows = rows.map((all) => new Map(Array.from(all, ([id, row]) => [id, { ...row, refs: new Map(row.refs) }])));
    this.pairs = pairs.map((all) => new Set(all));
    try {
      for (const command of commands) this.carryOutOne(command);
      return null;
    } catch (error) {
      [this.rows, this.pairs] = [rows, pairs];
      if (error instanceof Refused) return error.reason;
      throw error;
    }
  }

  /** All rows and pairs, in one form. */
  told(): unknown {
    return {
      rows: this.rows.map((all) =>
        Array.from(all, ([id, { label, level, refs }]) => ({ id, label, level, refs: Object.fromEntries(refs) })).toSorted(
          (one, other) => one.id - other.id,
        ),
      ),
      pairs: this.pairs.map((all) => Array.from(all).toSorted()),
    };
  }

  private carryOutOne(command: NaiveCommand): void {
    switch (command.kind) {
      case 'create':
        this.create(command);
        break;
      case 'find or create':
      case 'create or update': {
        const found = Array.from(this.of(command.entity)).filter(([, row]) => row.label === command.label);
        // The rows that roles name are looked for only where a row is made, or changed.
        if (found.length > 1) throw new Refused('several');
        const [only] = found;
        if (only === undefined) this.create(command);
        else if (command.kind === 'create or update') {
          const refs = Object.fromEntries(
            command.refs.flatMap((to, at) => (isOwn(this.tree.relations[at], command.entity) && to !== null ? [[at, to]] : [])),
          );
          this.change(command.entity, [only[0]], { ...(command.level === null ? {} : { level: command.level }), refs });
        }
        break;
      }
      case 'update':
        this.change(command.entity, this.meant(command.entity, command.of), command.set);
        break;
      case 'delete':
        this.delete(command.entity, this.meant(command.entity, command.of));
        break;
      case 'link':
      case 'unlink':
        this.link(command);
    }
  }

  private of(entity: number): Map<number, NaiveRow> {
    return this.rows[entity] ?? new Map();
  }

  private meant(entity: number, of: Meant): readonly number[] {
    if ('above' in of)
      return Array.from(this.of(entity)).flatMap(([id, { level }]) => (level !== null && level > of.above ? [id] : []));
    if (!this.of(entity).has(of.id)) throw new Refused('missing');
    return [of.id];
  }

  private create({
    entity,
    id,
    label,
    level,
    refs,
  }: Extract<NaiveCommand, { kind: 'create' | 'find or create' | 'create or update' }>): void {
    const row: NaiveRow = { label, level, refs: new Map() };
    const own = this.tree.relations.flatMap((relation, at) =>
      isOwn(relation, entity) ? [{ relation, at, to: refs[at] ?? null }] : [],
    );
    for (const { relation, to } of own) if (to !== null && !this.of(relation.parent).has(to)) throw new Refused('missing');
    for (const { relation, to } of own) if (to === null && relation.required) throw new Refused('required');
    for (const { at, to } of own) row.refs.set(at, to);
    const isThere = this.of(entity).has(id);
    this.of(entity).set(isThere ? -id : id, row);
    this.hold(entity, isThere ? ['unique'] : []);
  }

  private change(entity: number, ids: readonly number[], set: Extract<NaiveCommand, { kind: 'update' }>['set']): void {
    for (const [at, to] of Object.entries(set.refs)) {
      const relation = this.tree.relations[Number(at)];
      if (ids.length > 0 && to !== null && isOwn(relation, entity) && !this.of(relation.parent).has(to))
        throw new Refused('missing');
    }
    for (const id of ids) {
      const row = this.of(entity).get(id);
      if (row === undefined) continue;
      if (set.label !== undefined) row.label = set.label;
      if (set.level !== undefined) row.level = set.level;
      for (const [at, to] of Object.entries(set.refs)) row.refs.set(Number(at), to);
    }
    this.hold(entity);
  }

  /** Looks at what every row of an entity has to hold to. */
  private hold(entity: number, more: readonly Reason[] = []): void {
    const all = Array.from(this.of(entity).values());
    const broken = new Set(more);
    if (all.some(({ level }) => level !== null && level >= MOST_LEVEL)) broken.add('check');
    if (this.tree.entities[entity]?.unique === true && hasTwice(all.map(({ label }) => label))) broken.add('unique');
    for (const [at, relation] of this.tree.relations.entries()) {
      if (!isOwn(relation, entity)) continue;
      const held = all.map(({ refs }) => refs.get(at) ?? null);
      if (relation.required && held.includes(null)) broken.add('required');
      if (relation.one && hasTwice(held.filter((to) => to !== null))) broken.add('unique');
    }
    const [first, ...others] = broken;
    // Which of several an engine tells first is its own affair.
    if (first !== undefined) throw new Refused(others.length === 0 ? first : 'any of several');
  }

  private delete(entity: number, ids: readonly number[]): void {
    const gone = new Map<string, { readonly entity: number; readonly id: number }>();
    const open = ids.map((id) => ({ entity, id }));
    for (let next = open.pop(); next !== undefined; next = open.pop()) {
      const name = `${next.entity} ${next.id}`;
      if (gone.has(name)) continue;
      gone.set(name, next);
      for (const { relation, child } of this.pointingAt(next.entity, next.id))
        if (relation.onDelete === 'cascade') open.push({ entity: relation.child, id: child });
    }
    const isGone = (of: number, id: number) => gone.has(`${of} ${id}`);
    for (const one of gone.values())
      for (const { relation, child } of this.pointingAt(one.entity, one.id)) {
        if (relation.onDelete !== 'restrict') continue;
        // A row that would go itself may stand in the way or not, by the order in which an engine goes through them.
        if (isGone(relation.child, child)) throw new EitherWay('restrict');
        throw new Refused('restrict');
      }
    for (const one of gone.values()) {
      for (const { relation, at, child } of this.pointingAt(one.entity, one.id))
        if (relation.onDelete === 'set null') this.of(relation.child).get(child)?.refs.set(at, null);
      this.of(one.entity).delete(one.id);
      for (const [at, relation] of this.tree.relations.entries()) {
        if (relation.kind !== 'pairs') continue;
        const all = this.pairs[at];
        for (const pair of Array.from(all ?? [])) {
          const [near, far] = pair.split(' ').map(Number);
          if ((relation.near === one.entity && near === one.id) || (relation.far === one.entity && far === one.id))
            all?.delete(pair);
        }
      }
    }
  }

  private pointingAt(entity: number, id: number): { readonly relation: NaiveKey; readonly at: number; readonly child: number }[] {
    return this.tree.relations.flatMap((relation, at) =>
      relation.kind !== 'key' || relation.parent !== entity
        ? []
        : Array.from(this.of(relation.child)).flatMap(([child, { refs }]) =>
            refs.get(at) === id ? [{ relation, at, child }] : [],
          ),
    );
  }

  private link({ kind, relation: at, near, far }: Extract<NaiveCommand, { kind: 'link' | 'unlink' }>): void {
    const relation = this.tree.relations[at];
    if (relation === undefined) return;
    if (relation.kind === 'key') {
      // The parent is named first, and then the child.
      if (!this.of(relation.parent).has(far) || !this.of(relation.child).has(near)) throw new Refused('missing');
      const row = this.of(relation.child).get(near);
      const linked = row?.refs.get(at) === far;
      if (linked === (kind === 'link')) return;
      row?.refs.set(at, kind === 'link' ? far : null);
      this.hold(relation.child);
      return;
    }
    if (!this.of(relation.near).has(near) || !this.of(relation.far).has(far)) throw new Refused('missing');
    if (kind === 'link' && relation.symmetric && near === far) throw new Refused('itself');
    const pair = relation.symmetric ? [near, far].toSorted((one, other) => one - other).join(' ') : `${near} ${far}`;
    if (kind === 'link') this.pairs[at]?.add(pair);
    else this.pairs[at]?.delete(pair);
  }
}

function hasTwice(values: readonly unknown[]): boolean {
  return new Set(values).size < values.length;
}
