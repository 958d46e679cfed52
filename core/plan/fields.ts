import { type Entity, entityOf, type Field, fieldOf, type Model, pivotOf, type Role } from '../model/index.js';
import { planned } from './expressions.js';
import type { PlannedField } from './plan.js';
import type { Draft, Planning } from './planning.js';

/** The name under which a row's own title stands in an answer; no field can bear it. */
export const TITLE = '~shown';

/** The columns that a plan's rows have beside those that the query asks for. */
export interface Bearing {
  /** The whole key as one value, where it has several fields. */
  readonly wholeKey: boolean;
  /** What the entity says that a row is shown as, under `TITLE`. */
  readonly title: boolean;
}

/**
 * The fields of an entity's rows: those named, or all that are not hidden; of a base, those of its kinds too, each for rows of that
 * kind. The key always, since the answer's rows are told apart by it.
 */
export function fieldsOf(
  planning: Planning,
  row: Draft,
  entity: Entity,
  names: readonly string[] | null,
  { wholeKey, title }: Bearing,
): PlannedField[] {
  const hiddenKey = entity.key.fields.filter((field) =>
    names === null ? !entity.fields.some(({ name, hidden }) => name === field.name && !hidden) : !names.includes(field.name),
  );
  const key = hiddenKey.map((field): PlannedField => ({ kind: 'stored', field, kinds: null }));
  const whole: PlannedField[] = wholeKey && entity.key.type.kind === 'composite' ? [{ kind: 'whole key' }] : [];
  const own = namedFields(planning, row, entity, names ?? shownFields(entity), null);
  const titled = title && names === null ? [titleOf(planning, row, entity)] : [];
  const ofKinds = names === null ? kindsBelow(planning.model, entity).flatMap((kind) => kindFields(planning, row, kind)) : [];
  return [...key, ...whole, ...own, ...titled, ...ofKinds];
}

/** What a row is shown as. */
function titleOf(planning: Planning, row: Draft, { shownAs: { value } }: Entity): PlannedField {
  return { kind: 'derived', name: TITLE, expression: planned(planning, row, value), type: value.type, kinds: null };
}

/** The keys that rows hold and no field shows: what a row points at is part of it. */
export function heldKeysOf(model: Model, entity: Entity): PlannedField[] {
  return [
    ...holding(entity).map((role): PlannedField => ({ kind: 'held key', role, kinds: null })),
    ...kindsBelow(model, entity).flatMap((kind) =>
      holding(kind)
        .filter((role) => role.entity === kind.name)
        .map((role): PlannedField => ({ kind: 'held key', role, kinds: concreteOf(kind) })),
    ),
  ];
}

/** The fields of the pair over which rows were reached: those named, or all that are not hidden. */
export function pivotFieldsOf(model: Model, { relation }: Role, names: readonly string[] | null): PlannedField[] {
  const { fields } = pivotOf(model, relation);
  const wanted = names ?? fields.filter((field) => !field.hidden).map((field) => field.name);
  return wanted.map((name): PlannedField => ({ kind: 'pivot field', relation, field: fieldOf(fields, name) }));
}

function holding({ roles, polymorphic }: Entity): Role[] {
  return [...roles, ...polymorphic.flatMap(({ branches }) => branches)].filter(({ way }) => way.kind === 'key');
}

function shownFields({ fields, derived }: Entity): string[] {
  return [...fields.filter((field) => !field.hidden).map((field) => field.name), ...derived.map(({ name }) => name)];
}

function namedFields(
  planning: Planning,
  row: Draft,
  entity: Entity,
  names: readonly string[],
  kinds: readonly string[] | null,
): PlannedField[] {
  return names.map((name): PlannedField => {
    if (name === TITLE) return titleOf(planning, row, entity);
    const derived = entity.derived.find((candidate) => candidate.name === name);
    if (derived === undefined) return { kind: 'stored', field: fieldOf(entity.fields, name), kinds };
    const { expression, type } = derived;
    return { kind: 'derived', name, expression: planned(planning, row, expression), type, kinds };
  });
}

/** What a kind has beside what all have. */
function kindFields(planning: Planning, row: Draft, kind: Entity): PlannedField[] {
  const own = kind.fields.filter((field: Field) => field.owner === kind.name && !field.hidden);
  const derived = kind.derived.filter(({ name }) => !inherits(planning.model, kind, name));
  const names = [...own, ...derived].map(({ name }) => name);
  return namedFields(planning, row, kind, names, concreteOf(kind));
}

function concreteOf({ kinds }: Entity): readonly string[] | null {
  return kinds?.concrete.map(({ entity }) => entity) ?? null;
}

function inherits(model: Model, { kinds }: Entity, derived: string): boolean {
  const base = kinds?.base ?? null;
  return base !== null && entityOf(model, base).derived.some(({ name }) => name === derived);
}

/** The kinds of an entity, and theirs. */
function kindsBelow(model: Model, { kinds }: Entity): Entity[] {
  return (kinds?.kinds ?? []).flatMap((name) => {
    const kind = entityOf(model, name);
    return [kind, ...kindsBelow(model, kind)];
  });
}
