import type { Sentence } from '../../notation/index.js';
import { typeName } from '../../values/index.js';
import { type EntityDraft, type Resolution, wrong } from '../draft.js';
import type { Role } from '../expression.js';
import { sameKeyType } from '../fields.js';
import { conventionalColumns } from '../keys.js';
import type { Chosen, KeyColumn, KeyRelation } from '../model.js';
import { snakeCase } from '../names.js';
import { convention, type Ends, type RelationForm, ruleOf, sharedBy, stated } from './form.js';

interface Sides {
  readonly child: EntityDraft;
  readonly parent: EntityDraft;
  /** What the child knows of the parent, and back. */
  readonly up: Sentence | null;
  readonly down: Sentence | null;
}

/** One-to-many and one-to-one: the key of one entity's row stands in a column of the other's. */
export const keyForm: RelationForm = {
  fits: ({ first, second, stored }) =>
    !first.bothWays &&
    (first.knows !== 'many' ||
      (second !== null && second.knows !== 'many') ||
      (second === null && (stored?.store.kind === 'column' || stored?.store.kind === 'composite'))),

  resolve(resolution, ends) {
    const { syntax, stored } = ends;
    const label = `relation ${syntax.name.text}`;
    if (stored !== null && stored.store.kind !== 'column' && stored.store.kind !== 'composite') {
      return wrong(
        resolution,
        'store-form',
        stored.span,
        `${label} is ${formOf(ends)}: it is stored in a key column, as in “stored in ${ends.subject.name}.${ends.first.role.text}_id”.`,
      );
    }
    const sides = sidesOf(resolution, ends);
    if (sides === null) return null;
    const { child, parent, up, down } = sides;
    const oneToOne = down !== null && down.knows !== 'many';
    const required = up?.knows === 'one';
    if (required && child === parent) {
      return wrong(
        resolution,
        'self-required',
        up.span,
        `${child.name}.${up.role.text}: no first ${child.name} could exist, since each would need one before it. Write “knows at most one”.`,
      );
    }
    const columns = columnsOf(resolution, ends, sides);
    if (columns === null) return null;
    const onDelete = ruleOf(
      resolution,
      syntax,
      'on delete',
      required || columns.some((column) => child.key.columns.includes(column.value)) ? 'restrict' : 'set null',
      required ? `${child.name} knows one ${parent.name}` : `${child.name} knows at most one ${parent.name}`,
    );
    if (onDelete.value === 'set null' && required) {
      const span = onDelete.origin.kind === 'stated' ? onDelete.origin.span : syntax.head;
      return wrong(
        resolution,
        'set-null-required',
        span,
        `${label}: ${child.name} knows one ${parent.name}, so its key cannot be set null. Write “knows at most one”, or another rule.`,
      );
    }
    const inKey = columns.find((column) => child.key.columns.includes(column.value));
    if (onDelete.value === 'set null' && inKey !== undefined) {
      const span = onDelete.origin.kind === 'stated' ? onDelete.origin.span : syntax.head;
      return wrong(
        resolution,
        'set-null-in-key',
        span,
        `${label}: ${inKey.value} is part of ${child.name}’s own key, so it cannot be set null. Write another rule, as in “on delete restrict”.`,
      );
    }
    const relation: KeyRelation = {
      kind: 'key',
      form: oneToOne ? 'one-to-one' : 'one-to-many',
      ...sharedBy(resolution, syntax),
      child: child.name,
      parent: parent.name,
      columns,
      required,
      childRole: up?.role.text ?? null,
      parentRole: down?.role.text ?? null,
      onDelete,
    };
    if (down?.knows === 'one') {
      resolution.findings.push({
        weight: 'note',
        code: 'far-side-one',
        span: down.span,
        fixes: [],
        message: `${parent.name} knows one ${child.name}, but the key stands in ${child.name}: no column can hold that each ${parent.name} has one.`,
      });
    }
    return { relation, roles: rolesOf(relation, sides) };
  },
};

function formOf({ first, second }: Ends): string {
  return first.knows !== 'many' && second !== null && second.knows !== 'many' ? 'one-to-one' : 'one-to-many';
}

/** Which sentence is the child's, the one that reads from the key. */
function sidesOf(resolution: Resolution, ends: Ends): Sides | null {
  const { syntax, first, second, subject, target, stored } = ends;
  const asStated: Sides = { child: subject, parent: target, up: first, down: second };
  const turned: Sides = { child: target, parent: subject, up: second, down: first };
  const store = stored?.store.kind === 'column' || stored?.store.kind === 'composite' ? stored.store : null;
  const role = store?.role ?? null;
  const written =
    store === null
      ? ''
      : store.kind === 'column'
        ? store.column.text
        : `(${store.columns.map((column) => column.text).join(', ')})`;
  if (store !== null && store.entity.text !== subject.name && store.entity.text !== target.name) {
    return wrong(
      resolution,
      'store-elsewhere',
      store.entity.span,
      `relation ${syntax.name.text} is between ${subject.name} and ${target.name}; its key cannot stand in ${store.entity.text}.`,
    );
  }
  const knowsMany = (sentence: Sentence | null) => sentence?.knows === 'many';
  if (knowsMany(first) || knowsMany(second)) {
    const sides = knowsMany(first) ? turned : asStated;
    if (store !== null && store.entity.text !== sides.child.name) {
      return wrong(
        resolution,
        'store-on-parent',
        store.entity.span,
        `relation ${syntax.name.text}: one ${sides.parent.name} has many of ${sides.child.name}, so the key stands in ${sides.child.name}. Write “stored in ${sides.child.name}.${written}”.`,
        [{ title: `Store it in ${sides.child.name}`, edits: [{ span: store.entity.span, text: sides.child.name }] }],
      );
    }
    return sides;
  }
  if (second === null) return asStated;
  if (store !== null) {
    if (subject !== target) return store.entity.text === subject.name ? asStated : turned;
    if (role === null && first.knows === second.knows) {
      return wrong(
        resolution,
        'store-role',
        stored?.span ?? syntax.head,
        `relation ${syntax.name.text}: both sentences read alike. Say which role the column is for: “stored in ${subject.name}.${written} as ${first.role.text}”.`,
      );
    }
    if (role !== null) return role.text === second.role.text ? turned : asStated;
    return first.knows === 'one' ? asStated : turned;
  }
  if (first.knows === second.knows) {
    return wrong(
      resolution,
      'store-side',
      syntax.name.span,
      `relation ${syntax.name.text}: both ends read alike, so say where the key stands: “stored in ${subject.name}.${first.role.text}_id” or “stored in ${target.name}.${second.role.text}_id”.`,
    );
  }
  return first.knows === 'one' ? asStated : turned;
}

/** The columns that hold the parent's key, each with a declared field's type that fits; null where one does not. */
function columnsOf(resolution: Resolution, ends: Ends, { child, parent, up }: Sides): KeyColumn[] | null {
  const { key } = parent;
  const chosen = chosenColumns(ends, { child, parent, up, down: null });
  const label = `relation ${ends.syntax.name.text}`;
  if (chosen.length !== key.fields.length) {
    const parts = key.fields.map((field) => field.name).join(', ');
    return wrong(
      resolution,
      'key-parts',
      ends.stored?.span ?? ends.syntax.head,
      `${label}: ${parent.name}’s key has ${key.fields.length === 1 ? 'one part' : `${key.fields.length} parts`} (${parts}), so it is stored in ${key.fields.length === 1 ? 'one column' : 'as many columns'}: “stored in ${child.name}.${key.fields.length === 1 ? `${chosen[0]?.value ?? 'id'}` : `(${conventionalColumns(up?.role.text ?? snakeCase(parent.name), key).join(', ')})`}”.`,
    );
  }
  const columns: KeyColumn[] = [];
  for (const [index, column] of chosen.entries()) {
    const part = key.fields[index];
    const declared = child.fields.find((field) => field.column.value.toLowerCase() === column.value.toLowerCase());
    if (declared !== undefined && part !== undefined && !sameKeyType(declared.type, part.type)) {
      return wrong(
        resolution,
        'key-type-mismatch',
        declared.span,
        `${child.name}.${up?.role.text ?? declared.name}: ${parent.name}’s key is ${typeName(part.type)}, but ${child.table.value.name}.${column.value} is ${typeName(declared.type)}. Change the field to ${typeName(part.type)}, or remove it and let the relation make it.`,
      );
    }
    columns.push({ ...column, declared: declared !== undefined });
  }
  return columns;
}

function chosenColumns(ends: Ends, { child, parent, up }: Sides): Chosen<string>[] {
  const store = ends.stored?.store;
  if (store?.kind === 'column') return [{ value: store.column.text, origin: stated(store.column.span) }];
  if (store?.kind === 'composite') return store.columns.map((column) => ({ value: column.text, origin: stated(column.span) }));
  const base = up?.role.text ?? snakeCase(parent.name);
  const rule = up === null ? `the name of ${parent.name}` : 'the role';
  const rest = parent.key.fields.length === 1 ? '_id' : 'the part of the key';
  return conventionalColumns(base, parent.key).map((value) => ({
    value,
    origin: convention(`${rule} and ${rest}, in ${child.table.value.name}`),
  }));
}

function rolesOf(relation: KeyRelation, { child, parent, up, down }: Sides): Role[] {
  const roles: Role[] = [];
  const columns = relation.columns.map((column) => column.value);
  if (up !== null) {
    roles.push({
      name: up.role.text,
      entity: child.name,
      owner: child.name,
      target: parent.name,
      relation: relation.name,
      knows: up.knows,
      way: { kind: 'key', columns, mark: null },
      orderBy: [],
      note: up.note?.value ?? null,
      span: up.span,
    });
  }
  if (down !== null) {
    roles.push({
      name: down.role.text,
      entity: parent.name,
      owner: parent.name,
      target: child.name,
      relation: relation.name,
      knows: down.knows,
      way: { kind: 'child', holder: child.name, columns, mark: null },
      orderBy: [],
      note: down.note?.value ?? null,
      span: down.span,
    });
  }
  return roles;
}
