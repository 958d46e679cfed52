import type { Design } from '../core/design/index.js';
import {
  type AnyPivotRelation,
  type CommandRows,
  type Entity,
  type Expression,
  entityOf,
  type Field,
  holdingsOf,
  isPivot,
  keysOfTargets,
  lineage,
  type Model,
  type NamedCommand,
  type PolymorphicRelation,
  queryOf,
  type Relation,
  type Role,
  type WrittenValue,
} from '../core/model/index.js';
import { type MadeRow, makeSamples } from '../core/samples/index.js';
import { joinKey, parseWire, type Wire } from '../core/values/index.js';

const NOWHERE = { start: 0, end: 0 };

/** A field that is as it was written, whenever its row is changed after that. */
const unchanging = (field: Field): Field => ({ ...field, onUpdateNow: false });

/** A model's tables without rows, and without rules, which sample rows may break. */
export function emptied(design: Design): Design {
  const { model } = design;
  const samples = Array.from(model.entities.values(), ({ name }) => ({
    entity: name,
    count: 0,
    rows: [],
    generators: [],
    span: NOWHERE,
  }));
  const entities = new Map(
    Array.from(model.entities, ([name, entity]) => [name, { ...entity, rules: [], fields: entity.fields.map(unchanging) }]),
  );
  return { ...design, model: { ...model, samples, entities } };
}

interface RowOf {
  readonly entity: string;
  readonly key: Wire;
}

/** Something that no command can say: nobody named a role by which it could. */
export class Unsayable extends Error {}

/**
 * The commands that put the sample rows of a design in one by one, through its roles: each row with what it has to have, then what
 * it may point at, then pairs. @throws Unsayable
 */
export function commandsFor({ model }: Design, now: string): readonly NamedCommand[] {
  const { rows, pairs } = makeSamples(model, now);
  const creates: NamedCommand[] = [];
  const updates: NamedCommand[] = [];
  for (const name of inOrder(model, Array.from(rows.keys())))
    for (const row of rows.get(name) ?? []) {
      const { create, update } = writing(model, entityOf(model, name), row);
      creates.push(create);
      if (update !== null) updates.push(update);
    }
  const links = Array.from(pairs).flatMap(([relation, all]) => all.map((pair) => linking(model, relation, pair)));
  return [...creates, ...updates, ...links];
}

/** Entities, each behind those whose rows its own have to point at. */
function inOrder(model: Model, names: readonly string[]): readonly string[] {
  const done = new Set<string>();
  const order: string[] = [];
  const visit = (name: string, above: readonly string[]) => {
    if (done.has(name) || above.includes(name)) return;
    for (const { role, required } of held(model, entityOf(model, name)))
      if (required) for (const target of names) if (isA(model, target, role.target)) visit(target, [...above, name]);
    done.add(name);
    order.push(name);
  };
  for (const name of names) visit(name, []);
  return order;
}

function isA(model: Model, name: string, base: string): boolean {
  return lineage(model, name).some((one) => one.name === base);
}

interface HeldRole {
  readonly relation: Exclude<Relation, AnyPivotRelation>;
  readonly role: Role;
  readonly required: boolean;
}

/** The relations whose keys an entity's rows hold, with the role of each; of a role to several entities all its branches. */
function held(model: Model, entity: Entity): readonly HeldRole[] {
  return Array.from(model.relations.values()).flatMap((relation): HeldRole[] => {
    if (relation.kind === 'pivot' || relation.kind === 'polymorphic pivot') return [];
    if (!isA(model, entity.name, relation.child)) return [];
    const roles =
      relation.kind === 'key'
        ? entity.roles.filter(
            (role) => role.relation === relation.name && role.way.kind === 'key' && role.name === relation.childRole,
          )
        : (entity.polymorphic.find((role) => role.relation === relation.name)?.branches ?? []);
    if (roles.length === 0) throw new Unsayable(`${relation.name} has no role of ${entity.name}`);
    return roles.map((role) => ({ relation, role, required: relation.required }));
  });
}

function writing(model: Model, entity: Entity, row: MadeRow): { create: NamedCommand; update: NamedCommand | null } {
  const fields = entity.fields
    .filter(({ physical, column }) => physical.generated === null && row.has(column.value))
    .map(
      (field): WrittenValue => ({
        kind: 'field',
        field,
        expression: valued(row.get(field.column.value) ?? null, field.type),
        span: NOWHERE,
      }),
    );
  const must: WrittenValue[] = [];
  const may: WrittenValue[] = [];
  for (const [, roles] of byRelation(held(model, entity))) {
    const [first] = roles;
    const target = first === undefined ? null : targetOf(model, first.relation, row);
    const role = roles.find((one) => target !== null && isA(model, target.entity, one.role.target))?.role;
    if (first === undefined || target === null || role === undefined) continue;
    // A key that is made of another's is set with it.
    const inKey = holdingsOf(first.relation).keys.some(({ columns }) =>
      columns.some(({ value }) => entity.key.columns.includes(value)),
    );
    (first.required || inKey ? must : may).push({ kind: 'role', role, rows: rowsOf(target), span: NOWHERE });
  }
  const key = joinKey(
    entity.key.type,
    entity.key.columns.map((column) => row.get(column) ?? null),
  );
  const create = {
    kind: 'create',
    row: { entity: entity.name, values: [...fields, ...must], children: [], span: NOWHERE },
    through: null,
  } as const;
  const update = { kind: 'update', rows: rowsOf({ entity: entity.name, key }), values: may } as const;
  return { create: line(create), update: may.length === 0 ? null : line(update) };
}

function byRelation(roles: readonly HeldRole[]): ReadonlyMap<string, readonly HeldRole[]> {
  const groups = new Map<string, HeldRole[]>();
  for (const role of roles) groups.set(role.relation.name, [...(groups.get(role.relation.name) ?? []), role]);
  return groups;
}

function line(command: NamedCommand['command']): NamedCommand {
  return { name: null, as: null, command, span: NOWHERE };
}

function valued(value: Wire, type: Expression['type']): Expression {
  return { kind: 'value', value, type, span: NOWHERE };
}

function rowsOf({ entity, key }: RowOf): CommandRows {
  return { entity, row: valued(key, { kind: 'row', entity }), query: queryOf(entity), path: [], one: true, span: NOWHERE };
}

/** The row that another points at over a relation, as its columns say it. */
function targetOf(model: Model, relation: Exclude<Relation, AnyPivotRelation>, row: MadeRow): RowOf | null {
  if (relation.kind === 'polymorphic') return polymorphicTarget(model, relation, row);
  const { key } = entityOf(model, relation.parent);
  const parts = relation.columns.map(({ value }) => row.get(value) ?? null);
  return parts.includes(null) ? null : { entity: relation.parent, key: joinKey(key.type, parts) };
}

type SeveralTargets = Pick<PolymorphicRelation, 'storage' | 'targets'> & { readonly kind: 'polymorphic' | 'polymorphic pivot' };

function polymorphicTarget(model: Model, relation: SeveralTargets, row: MadeRow): RowOf | null {
  for (const { columns, mark, target } of keysOfTargets(relation as PolymorphicRelation)) {
    const held = row.get(columns[0]?.value ?? '') ?? null;
    const said = mark === null ? 0 : mark.marks.indexOf(String(row.get(mark.column)));
    if (held === null || said < 0) continue;
    const entity = mark?.means[said] ?? target;
    const parsed = parseWire(entityOf(model, entity).key.type, String(held));
    return { entity, key: parsed.ok ? parsed.value : held };
  }
  return null;
}

function linking(model: Model, name: string, pair: MadeRow): NamedCommand {
  const relation = model.relations.get(name);
  if (relation === undefined || !isPivot(relation)) throw new Error(`${name} is no relation of pairs`);
  const [[owner, role], other] = endsOf(model, relation, pair);
  const fields = relation.fields
    .filter(({ physical }) => physical.generated === null)
    .map(
      (field): WrittenValue => ({
        kind: 'field',
        field,
        expression: valued(pair.get(field.column.value) ?? null, field.type),
        span: NOWHERE,
      }),
    );
  return line({ kind: 'link', owner: rowsOf(owner), others: [{ role, rows: rowsOf(other) }], fields, pairs: null });
}

/** A row of a pair, with its role, and the row behind that. */
function endsOf(model: Model, relation: AnyPivotRelation, pair: MadeRow): readonly [readonly [RowOf, Role], RowOf] {
  const end = ({ entity, columns }: { entity: string; columns: readonly { value: string }[] }): RowOf => ({
    entity,
    key: joinKey(
      entityOf(model, entity).key.type,
      columns.map(({ value }) => pair.get(value) ?? null),
    ),
  });
  const roleOf = (entity: string, called: string | null, target: string): Role | undefined => {
    const { roles, polymorphic } = entityOf(model, entity);
    const all = [...roles, ...polymorphic.flatMap(({ branches }) => branches)];
    return all.find((role) => role.relation === relation.name && role.name === called && isA(model, target, role.target));
  };
  if (relation.kind === 'pivot') {
    const [one, another] = relation.ends;
    const role = roleOf(one.entity, one.role, another.entity);
    if (role !== undefined) return [[end(one), role], end(another)];
    const back = roleOf(another.entity, another.role, one.entity);
    if (back !== undefined) return [[end(another), back], end(one)];
  } else {
    const target = polymorphicTarget(model, relation, pair);
    const role = target === null ? undefined : roleOf(relation.near.entity, relation.near.role, target.entity);
    if (target !== null && role !== undefined) return [[end(relation.near), role], target];
  }
  throw new Unsayable(`${relation.name} has no role`);
}
