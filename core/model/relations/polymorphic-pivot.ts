import { type Resolution, wrong } from '../draft.js';
import type { Role } from '../expression.js';
import { conventionalColumns } from '../keys.js';
import {
  type Chosen,
  farColumns,
  type PivotColumn,
  type PolymorphicPivotRelation,
  type PolymorphicRole,
  type PolymorphicStorage,
} from '../model.js';
import { singular, snakeCase } from '../names.js';
import { convention, foreignKeysOf, noteOf, ruleOf, stated } from './form.js';
import { pivotFields } from './pivot.js';
import { markOf, type PolymorphicEnds, polymorphicRole, sharedType, targetsOf } from './polymorphic.js';

/** Many-to-many with several entities: pairs of a key, and of type and id, or of a key for each entity. */
export function resolvePolymorphicPivot(
  resolution: Resolution,
  ends: PolymorphicEnds,
): { relation: PolymorphicPivotRelation; roles: readonly (Role | PolymorphicRole)[] } | null {
  const { syntax, holder, forth, stored } = ends;
  const name = syntax.name.text;
  const label = `relation ${name}`;
  const targets = targetsOf(resolution, ends);
  if (targets === null) return null;
  const composite = ends.targets.find(({ entity }) => entity.key.fields.length > 1);
  if (composite !== undefined)
    return wrong(
      resolution,
      'key-parts',
      stored?.span ?? syntax.head,
      `${label}: ${composite.entity.name}’s key has several parts, and one id column holds one. Give it a key of one field, or state a relation of its own for it.`,
    );
  if (stored !== null && stored.store.kind !== 'table')
    return wrong(
      resolution,
      'store-form',
      stored.span,
      stored.store.kind === 'entity'
        ? `${label}: pairs that an entity holds are walked to one entity at a time. State a relation for each of ${ends.targets.map(({ entity }) => entity.name).join(', ')}, all stored in ${stored.store.entity.text}.`
        : `${label} is many-to-many: it is stored in a table of pairs, as in “stored in table ${name} (${snakeCase(holder.name)}_id, thing_type with thing_id)”.`,
    );
  const store = stored?.store.kind === 'table' ? stored.store : null;
  const columns = store?.columns ?? null;
  const [one, other] = columns ?? [];
  // The columns follow the subjects of the sentences: the holder's first where the first sentence is its own.
  const holderFirst = ends.targets.every(({ back }) => back === null || forth === null || forth.span.start < back.span.start);
  const [second, first] = holderFirst ? [other, one] : [one, other];
  const typed = [one, other].find((column) => column?.kind === 'typed');
  // Of two lists the one that stands on the holder's side is its key.
  const listed = typed !== undefined ? undefined : [second, first].find((column) => column?.kind === 'composite');
  const far = typed ?? listed;
  const plain = [one, other].find((column) => column !== undefined && column !== far);
  if (columns !== null && (far === undefined || plain === undefined || plain.kind === 'typed'))
    return wrong(
      resolution,
      'store-form',
      stored?.span ?? syntax.head,
      `${label} leads to several entities, so one side of the pair is type and id, or a column for each: “(${snakeCase(holder.name)}_id, thing_type with thing_id)” or “(${snakeCase(holder.name)}_id, (${ends.targets.map(({ entity }) => `${snakeCase(entity.name)}_id`).join(', ')}))”.`,
    );
  const stem = forth === null ? 'thing' : singular(forth.role.text);
  const pick = (stated_: { text: string; span: { start: number; end: number } } | undefined, rest: string): Chosen<string> =>
    stated_ === undefined
      ? { value: `${stem}_${rest}`, origin: convention(`the singular of the role and _${rest}`) }
      : { value: stated_.text, origin: stated(stated_.span) };
  const near: PivotColumn[] =
    plain?.kind === 'column'
      ? [{ value: plain.name.text, origin: stated(plain.name.span), field: null }]
      : plain?.kind === 'composite'
        ? plain.names.map((column) => ({ value: column.text, origin: stated(column.span), field: null }))
        : conventionalColumns(snakeCase(holder.name), holder.key).map((value) => ({
            value,
            origin: convention('the entity’s name and _id'),
            field: null,
          }));
  if (near.length !== holder.key.fields.length)
    return wrong(
      resolution,
      'key-parts',
      stored?.span ?? syntax.head,
      `${label}: ${holder.name}’s key has ${holder.key.fields.length} parts, so the pivot holds it in as many columns.`,
    );
  const onDelete = ruleOf(resolution, syntax, 'on delete', 'cascade', 'a pair goes with either of its rows');
  if (onDelete.value === 'set null' || onDelete.value === 'set default')
    return wrong(
      resolution,
      'set-null-required',
      onDelete.origin.kind === 'stated' ? onDelete.origin.span : syntax.head,
      `${label}: a pair needs both of its rows, so neither key can be ${onDelete.value}. Use cascade, restrict or no action.`,
    );
  const nearEnd = { entity: holder.name, columns: near, role: forth?.role.text ?? null };
  if (listed?.kind === 'composite' && listed.names.length !== targets.length)
    return wrong(
      resolution,
      'one-of-columns',
      stored?.span ?? syntax.head,
      `${label}: one column for each of ${targets.map(({ entity }) => entity).join(', ')}, in this order; here are ${listed.names.length}.`,
    );
  const storage: PolymorphicStorage =
    listed?.kind === 'composite'
      ? {
          kind: 'one of',
          columns: listed.names.map((column) => ({ value: column.text, origin: stated(column.span), declared: false })),
        }
      : {
          kind: 'type and id',
          type: pick(typed?.kind === 'typed' ? typed.type : undefined, 'type'),
          id: pick(typed?.kind === 'typed' ? typed.id : undefined, 'id'),
          idType: sharedType(ends.targets.map(({ entity }) => entity.key.type)),
          triggers: !(stored?.withoutTriggers ?? false),
        };
  const held = [...near, ...farColumns({ storage })].map(({ value }) => value);
  const twice = held.find((value, index) => held.findIndex((one_) => one_.toLowerCase() === value.toLowerCase()) !== index);
  if (twice !== undefined)
    return wrong(
      resolution,
      'named-twice',
      stored?.span ?? syntax.head,
      `${label} names ${twice} twice. Each key has its own column.`,
    );
  const { fields } = pivotFields(resolution, stored, name, held, stored?.repeats === true || storage.kind === 'one of');
  const relation: PolymorphicPivotRelation = {
    kind: 'polymorphic pivot',
    form: 'polymorphic many-to-many',
    name,
    entity: null,
    given: stored?.given ?? false,
    table:
      store === null
        ? { value: { schema: null, name }, origin: convention('the name of the relation') }
        : { value: { schema: store.table.schema?.text ?? null, name: store.table.name.text }, origin: stated(store.table.span) },
    near: nearEnd,
    targets,
    storage,
    fields,
    uniques: [],
    indexes: [],
    checks: [],
    keptInTable: [],
    repeats: stored?.repeats ?? false,
    withoutKey: stored?.withoutKey ?? false,
    onDelete,
    onUpdate: ruleOf(resolution, syntax, 'on update', 'no action', 'a key is seldom changed'),
    ...foreignKeysOf(resolution, syntax),
    note: noteOf(syntax),
    span: syntax.span,
    head: syntax.head,
  };
  return { relation, roles: rolesOf(relation, ends) };
}

function rolesOf(relation: PolymorphicPivotRelation, { holder, forth, targets }: PolymorphicEnds): (Role | PolymorphicRole)[] {
  const near = relation.near.columns.map(({ value }) => value);
  const { storage } = relation;
  const table = relation.table.value;
  const branches: Role[] = [];
  const backs: Role[] = [];
  relation.targets.forEach((target, index) => {
    const end = targets[index];
    if (end === undefined) return;
    const far = [(storage.kind === 'one of' ? storage.columns[index] : storage.id)?.value ?? ''];
    const mark = storage.kind === 'one of' ? null : markOf(storage, target, end.entity.key.type);
    const common = { relation: relation.name, knows: 'many' as const, orderBy: [] };
    if (forth !== null)
      branches.push({
        ...common,
        name: forth.role.text,
        entity: holder.name,
        owner: holder.name,
        target: target.entity,
        way: { kind: 'pivot', table, near, far, symmetric: false, mark, marked: 'far' },
        note: forth.note?.value ?? null,
        span: forth.span,
      });
    if (end.back !== null)
      backs.push({
        ...common,
        name: end.back.role.text,
        entity: target.entity,
        owner: end.back.subjects?.[0]?.text ?? relation.targets[0]?.entity ?? '',
        target: holder.name,
        way: { kind: 'pivot', table, near: far, far: near, symmetric: false, mark, marked: 'near' },
        note: end.back.note?.value ?? null,
        span: end.back.span,
      });
  });
  return forth === null ? backs : [polymorphicRole(forth, holder.name, relation.name, branches), ...backs];
}
