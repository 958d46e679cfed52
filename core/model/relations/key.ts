import type { Sentence } from '../../notation/index.js';
import { typeName, type ValueType } from '../../values/index.js';
import { type EntityDraft, notBuilt, type Resolution, wrong } from '../draft.js';
import type { Chosen, KeyRelation, Role } from '../model.js';
import { snakeCase } from '../names.js';
import { convention, type Ends, noteOf, type RelationForm, ruleOf, stated } from './form.js';

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
      (second === null && stored?.store.kind === 'column')),

  resolve(resolution, ends) {
    const { syntax, stored } = ends;
    const label = `relation ${syntax.name.text}`;
    if (stored !== null && stored.store.kind !== 'column') {
      const store = stored.store.kind;
      if (store === 'composite') return notBuilt(resolution, stored.span, `${label} is stored in a composite key`);
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
    const column = columnOf(ends, sides);
    const declared = child.fields.find((field) => field.column.value.toLowerCase() === column.value.toLowerCase());
    if (declared !== undefined && !sameKeyType(declared.type, parent.key.type)) {
      return wrong(
        resolution,
        'key-type-mismatch',
        declared.span,
        `${child.name}.${up?.role.text ?? declared.name}: ${parent.name}’s key is ${typeName(parent.key.type)}, but ${child.table.value.name}.${column.value} is ${typeName(declared.type)}. Change the field to ${typeName(parent.key.type)}, or remove it and let the relation make it.`,
      );
    }
    const onDelete = ruleOf(
      syntax,
      'on delete',
      required ? 'restrict' : 'set null',
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
    const relation: KeyRelation = {
      kind: 'key',
      form: oneToOne ? 'one-to-one' : 'one-to-many',
      name: syntax.name.text,
      child: child.name,
      parent: parent.name,
      column,
      required,
      declared: declared !== undefined,
      childRole: up?.role.text ?? null,
      parentRole: down?.role.text ?? null,
      onDelete,
      onUpdate: ruleOf(syntax, 'on update', 'no action', 'a key is seldom changed'),
      note: noteOf(syntax),
      span: syntax.span,
      head: syntax.head,
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
  const store = stored?.store.kind === 'column' ? stored.store : null;
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
        `relation ${syntax.name.text}: one ${sides.parent.name} has many of ${sides.child.name}, so the key stands in ${sides.child.name}. Write “stored in ${sides.child.name}.${store.column.text}”.`,
        [{ title: `Store it in ${sides.child.name}`, edits: [{ span: store.entity.span, text: sides.child.name }] }],
      );
    }
    return sides;
  }
  if (second === null) return asStated;
  if (store !== null) {
    if (subject !== target) return store.entity.text === subject.name ? asStated : turned;
    if (store.role === null && first.knows === second.knows) {
      return wrong(
        resolution,
        'store-role',
        stored?.span ?? syntax.head,
        `relation ${syntax.name.text}: both sentences read alike. Say which role the column is for: “stored in ${subject.name}.${store.column.text} as ${first.role.text}”.`,
      );
    }
    if (store.role !== null) return store.role.text === second.role.text ? turned : asStated;
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

function columnOf(ends: Ends, { child, parent, up }: Sides): Chosen<string> {
  const store = ends.stored?.store;
  if (store?.kind === 'column') return { value: store.column.text, origin: stated(store.column.span) };
  const base = up?.role.text ?? snakeCase(parent.name);
  const rule = up === null ? `the name of ${parent.name} and _id` : 'the role and _id';
  return { value: `${base}_id`, origin: convention(`${rule}, in ${child.table.value.name}`) };
}

function sameKeyType(own: ValueType, key: ValueType): boolean {
  if (own.kind !== key.kind) return false;
  if (own.kind === 'text' && key.kind === 'text') return own.length === key.length;
  if (own.kind === 'decimal' && key.kind === 'decimal') return own.precision === key.precision && own.scale === key.scale;
  return true;
}

function rolesOf(relation: KeyRelation, { child, parent, up, down }: Sides): Role[] {
  const roles: Role[] = [];
  if (up !== null) {
    roles.push({
      name: up.role.text,
      entity: child.name,
      target: parent.name,
      relation: relation.name,
      knows: up.knows,
      way: { kind: 'key', column: relation.column.value },
      orderBy: [],
      note: up.note?.value ?? null,
      span: up.span,
    });
  }
  if (down !== null) {
    roles.push({
      name: down.role.text,
      entity: parent.name,
      target: child.name,
      relation: relation.name,
      knows: down.knows,
      way: { kind: 'child', column: relation.column.value },
      orderBy: [],
      note: down.note?.value ?? null,
      span: down.span,
    });
  }
  return roles;
}
