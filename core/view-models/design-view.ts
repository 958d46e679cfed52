import type { Design } from '../design/index.js';
import {
  describeType,
  type Entity,
  type Expression,
  type ExpressionType,
  entityOf,
  type MeantFinding,
  type Model,
  type Order,
  type PolymorphicRole,
  type Relation,
  type Role,
} from '../model/index.js';
import type { Finding, Span } from '../notation/index.js';
import { foreignTarget } from '../schema/index.js';
import { typeName, type ValueType } from '../values/index.js';
import { type PackedColours, packColours } from './colours.js';

export interface QueryView {
  readonly name: string;
  readonly note: string | null;
  /** What stands in the brackets behind its name. */
  readonly head: string;
  /** Its lines, without their indentation. */
  readonly body: string;
  readonly parameters: readonly ParameterView[];
}

export interface ParameterView {
  readonly name: string;
  readonly type: string;
  /** The entity whose row is asked for; null for a value. */
  readonly entity: string | null;
  /** What may be chosen; null where anything of the type may be. */
  readonly values: readonly string[] | null;
  readonly optional: boolean;
  /** It is a list, written with commas between. */
  readonly many: boolean;
}

export interface DeclarationView {
  readonly kind: string;
  readonly name: string;
  readonly span: Span;
}

/** How a row of an entity is shown: the field that says it, where one does. */
export interface EntityView {
  readonly name: string;
  /** Under what name a browsed row bears its key. */
  readonly key: string;
  /** The key's type: of several fields, a composite one. */
  readonly keyType: ValueType;
  /** The fields that are the key, as an answer has them. */
  readonly keyFields: readonly string[];
  readonly shownField: string | null;
  /** The role that each key column stores, where it is no field of its own. */
  readonly keyColumns: Readonly<Record<string, string>>;
  /** The entity behind each role. */
  readonly roles: Readonly<Record<string, string>>;
  readonly table: string;
  readonly fields: readonly FieldView[];
  readonly ends: readonly RoleView[];
  /** The base at the top of the kinds that it is among; null where it is among none. */
  readonly kind: string | null;
  /** How many sample rows of it the text asks for, beside those with a name; null where it says nothing. */
  readonly sampleCount: number | null;
  /** What a row of it can be: itself, or one of its kinds. */
  readonly concrete: readonly string[];
  /** The table is somebody else's, and nothing is put into it. */
  readonly given: boolean;
  /** Its rows can be of several kinds, and each says which it is. */
  readonly several: boolean;
  /** Its rows stand in several tables, so that no foreign key can lead to them. */
  readonly inSeveralTables: boolean;
  /** By what number its rows have an order of their own; null where they have none. */
  readonly position: PositionView | null;
}

/** A number by which rows stand in an order that a person gives them. */
export interface PositionView {
  readonly field: string;
  /** It is a field of the pair over which a row is reached, rather than of the row. */
  readonly ofPair: boolean;
  /** No two rows have the same, among some rows or among all. */
  readonly unique: boolean;
}

/** A field as a column of a grid. */
export interface FieldView {
  readonly name: string;
  /** The type's kind, as `decimal` or `choice`. */
  readonly kind: string;
  readonly type: string;
  readonly derived: boolean;
  readonly key: boolean;
  readonly title: string | null;
  /** The titles of a choice's values. */
  readonly titles: Readonly<Record<string, string>>;
  /** The kinds whose rows have it; null where all have. */
  readonly kinds: readonly string[] | null;
  /** How its value is put in; null where nobody does that: it is computed. */
  readonly entry: FieldEntry | null;
}

/** How a value of a field is put in. */
export interface FieldEntry {
  readonly type: ValueType;
  readonly required: boolean;
  /** What fills it where a new row is given none, as `today`; null where nothing does. */
  readonly filledBy: string | null;
  /** Nobody changes it once the row is there. */
  readonly once: boolean;
}

/** A role as a link from row to row. */
export interface RoleView {
  /** What tells it from the entity's other roles: its name, and the target where it leads to many of several entities. */
  readonly id: string;
  readonly name: string;
  /** Where it leads; a polymorphic one to others too, and then each row says what it is. */
  readonly target: string;
  readonly targets: readonly string[];
  /** The kinds whose rows have it; null where all have. */
  readonly kinds: readonly string[] | null;
  /** Derived from other relations. */
  readonly path: boolean;
  /** A row has to have one. */
  readonly required: boolean;
  readonly many: boolean;
  readonly relation: string;
  /** The columns of this entity's table that hold the target's key; none where they stand elsewhere. */
  readonly columns: readonly string[];
  /** The pivot that it leads over, and its fields. */
  readonly pivot: { readonly table: string; readonly fields: readonly FieldView[] } | null;
  /** The role that leads back; null where nobody named one. */
  readonly back: string | null;
  /** By what number its rows have an order of their own; null where they have none. */
  readonly position: PositionView | null;
}

/** All that the page shows of a text, as plain data. */
export interface DesignView {
  readonly text: string;
  readonly title: string;
  /** What the SQL on the page is written for. */
  readonly dialect: string;
  readonly findings: readonly Finding[];
  /** The findings that are meant so, and are told no more. */
  readonly meant: readonly MeantFinding[];
  readonly colours: PackedColours;
  readonly declarations: readonly DeclarationView[];
  readonly relations: readonly { readonly name: string; readonly form: Relation['form'] }[];
  readonly queries: readonly QueryView[];
  /** The entity whose rows can be at work, where walls stand for them; else null. */
  readonly actor: string | null;
  readonly entities: readonly EntityView[];
  /** What the text expects: of a saved query, or of a command, whose query is null. */
  readonly expectations: readonly { readonly query: string | null; readonly span: Span }[];
  /** The tables of the pivots; a loaded row has their fields under these names. */
  readonly pivots: readonly string[];
  /** The choices: types to choose from, each with its values. */
  readonly choices: readonly { readonly name: string; readonly values: readonly string[] }[];
}

/** What the page shows of a design. */
export function designView(design: Design): DesignView {
  const { text, model } = design;
  const declarations = design.syntax.declarations.map(
    (declaration): DeclarationView => ({
      kind: declaration.kind,
      name: 'name' in declaration ? declaration.name.text : '',
      span: declaration.span,
    }),
  );
  const queries = design.syntax.declarations.flatMap((declaration): QueryView[] => {
    if (declaration.kind !== 'query') return [];
    const query = design.model.queries.get(declaration.name.text);
    if (query === undefined) return [];
    const head = /\(([\s\S]*)\)/.exec(text.slice(declaration.head.start, declaration.head.end))?.[1] ?? '';
    return [
      {
        name: declaration.name.text,
        note: query.note,
        head,
        body: dedented(text.slice(declaration.head.end, declaration.span.end)).replace(/^note '(?:[^'\n]|'')*'\n/, ''),
        parameters: query.parameters.map((parameter) => ({
          name: parameter.name,
          type: typeWord(parameter.type),
          optional: parameter.optional,
          many: parameter.many,
          entity: parameter.type.kind === 'row' ? parameter.type.entity : null,
          values:
            parameter.type.kind === 'choice'
              ? parameter.type.values
              : parameter.type.kind === 'boolean'
                ? ['true', 'false']
                : null,
        })),
      },
    ];
  });
  return {
    text,
    title: design.model.title,
    dialect: design.dialect.title,
    findings: design.findings,
    meant: design.model.meant,
    colours: packColours(design.syntax.colours),
    declarations,
    relations: Array.from(model.relations.values(), ({ name, form }) => ({ name, form })),
    queries,
    actor: model.walls.size === 0 ? null : model.actor,
    choices: Array.from(model.choices.values(), ({ name, values }) => ({ name, values: values.map(({ value }) => value) })),
    expectations: design.expectations.map(({ subject, span }) => ({
      query: subject.kind === 'query' ? subject.query.name : null,
      span,
    })),
    pivots: Array.from(design.model.relations.values()).flatMap((relation) =>
      'table' in relation ? [relation.table.value.name] : [],
    ),
    entities: Array.from(design.model.entities.values(), (entity) => ({
      name: entity.name,
      key: entity.key.name,
      keyType: entity.key.type,
      keyFields: entity.key.fields.map((field) => field.name),
      shownField:
        entity.shownAs.value.kind === 'field'
          ? entity.shownAs.value.field
          : entity.shownAs.value.kind === 'named'
            ? entity.shownAs.value.name
            : firstField(entity.shownAs.value),
      keyColumns: Object.fromEntries(withBelow(model, entity).flatMap((one) => keyColumnsOf(one))),
      roles: Object.fromEntries(endsOf(model, entity).map(({ name, target }) => [name, target])),
      table: entity.table.value.name,
      fields: fieldsOf(model, entity),
      ends: endsOf(model, entity),
      kind: entity.kinds?.root ?? null,
      sampleCount: model.samples.find((sample) => sample.entity === entity.name && sample.count !== null)?.count ?? null,
      concrete: concreteOf(entity) ?? [entity.name],
      given: entity.given,
      inSeveralTables: foreignTarget(model, entity.name).kind === 'tables',
      position: positionIn(model, entity.orderBy),
      several: entity.kinds !== null && (entity.kinds.concrete.length > 1 || entity.kinds.concrete[0]?.entity !== entity.name),
    })),
  };
}

/** An entity, and every kind below it: what those have of their own is seen in its rows, too. */
function withBelow(model: Model, entity: Entity): Entity[] {
  const below = (entity.kinds?.kinds ?? []).flatMap((name) => {
    const kind = model.entities.get(name);
    return kind === undefined ? [] : withBelow(model, kind);
  });
  return [entity, ...below];
}

function concreteOf(entity: Entity): readonly string[] | null {
  return entity.kinds?.concrete.map((kind) => kind.entity) ?? null;
}

function fieldsOf(model: Model, entity: Entity): FieldView[] {
  const own = withBelow(model, entity).flatMap((one) => {
    const whole = one === entity;
    const kinds = whole ? null : concreteOf(one);
    const base = one.kinds === null || one.kinds.base === null ? undefined : model.entities.get(one.kinds.base);
    const inherited = new Set(whole ? [] : base?.derived.map(({ name }) => name));
    return [
      ...one.fields
        .filter(({ hidden, owner }) => !hidden && (whole || owner === one.name))
        .map((field) => ({ ...fieldView(model, field), key: one.key.columns.includes(field.column.value), kinds })),
      ...one.derived
        .filter(({ name }) => !inherited.has(name))
        .map((derived) => ({
          name: derived.name,
          kind: derived.type.kind,
          type: typeWord(derived.type),
          derived: true,
          key: false,
          title: null,
          titles: {},
          kinds,
          entry: null,
        })),
    ];
  });
  // Two kinds may have a field of one name; a column of the grid stands for both.
  const byName = new Map<string, FieldView>();
  for (const field of own) {
    const other = byName.get(field.name);
    const kinds =
      other === undefined || other.kinds === null || field.kinds === null ? field.kinds : [...other.kinds, ...field.kinds];
    byName.set(field.name, { ...(other ?? field), kinds });
  }
  return [...rowNumberOf(model, entity), ...byName.values()];
}

/** The columns that hold other rows' keys, with the role that each is of. */
function keyColumnsOf(entity: Entity): (readonly [string, string])[] {
  const branches = entity.polymorphic.flatMap((role) => role.branches);
  return [...entity.roles, ...branches].flatMap(({ name, way }) =>
    way.kind === 'key'
      ? [...(way.mark === null ? [] : [way.mark.column]), ...way.columns].map((column) => [column, name] as const)
      : [],
  );
}

/** Every role of an entity, of its kinds and paths, as links; one to many of several entities is a link for each. */
function endsOf(model: Model, entity: Entity): RoleView[] {
  return withBelow(model, entity).flatMap((one) => {
    const kinds = one === entity ? null : concreteOf(one);
    const declared = (role: { readonly entity: string }) => one === entity || role.entity === one.name;
    return [
      ...one.roles.filter(declared).map((role) => ({ ...roleView(model, role), kinds })),
      ...one.polymorphic.filter(declared).flatMap((role) => polymorphicViews(model, role).map((view) => ({ ...view, kinds }))),
      ...one.paths.filter(declared).map((role) => ({ ...roleView(model, role), path: true, kinds })),
    ];
  });
}

function polymorphicViews(model: Model, { name, branches, knows }: PolymorphicRole): RoleView[] {
  const views = branches.map((branch) => roleView(model, branch));
  if (knows === 'many') return views.map((view) => ({ ...view, id: `${name} as ${view.target}` }));
  const [first] = views;
  if (first === undefined) return [];
  const columns = Array.from(new Set(views.flatMap((view) => view.columns)));
  return [{ ...first, columns, targets: views.map(({ target }) => target) }];
}

/** The row number that stands in for a key, which is no field of the text. */
function rowNumberOf(model: Model, { key }: Entity): FieldView[] {
  return key.byRow ? key.fields.map((field) => fieldView(model, field)) : [];
}

function fieldView(model: Model, field: Entity['fields'][number]): FieldView {
  const { name, type, key, title, physical } = field;
  const choice = type.kind === 'choice' ? model.choices.get(type.choice) : undefined;
  const titles = Object.fromEntries(
    choice?.values.flatMap((value) => (value.title === null ? [] : [[value.value, value.title]])) ?? [],
  );
  const entry = physical.generated === null ? entryOf(field) : null;
  return { name, kind: type.kind, type: typeName(type), derived: false, key, title, titles, kinds: null, entry };
}

function entryOf({ type, required, default: filled, key, fixed }: Entity['fields'][number]): FieldEntry {
  const numbered = key && (type.kind === 'integer' || type.kind === 'bigint' || type.kind === 'uuid');
  return { type, required, filledBy: numbered ? 'made for it' : wordOf(filled), once: key || fixed };
}

/** A default in a word. */
function wordOf(filled: Entity['fields'][number]['default']): string | null {
  if (filled === null) return null;
  switch (filled.kind) {
    case 'today':
    case 'now':
      return filled.kind;
    case 'value':
      return filled.value === null ? null : String(filled.value);
    default:
      return 'its default';
  }
}

function roleView(model: Model, role: Role): RoleView {
  const relation = model.relations.get(role.relation);
  const back = model.entities
    .get(role.target)
    ?.roles.find((other) => other.relation === role.relation && (other.entity !== role.entity || other.name !== role.name));
  return {
    id: role.name,
    name: role.name,
    target: role.target,
    targets: [role.target],
    kinds: null,
    path: false,
    required: role.knows === 'one' && role.way.kind === 'key',
    many: role.knows === 'many',
    relation: role.relation,
    columns: role.way.kind === 'key' ? role.way.columns : [],
    pivot:
      relation !== undefined && 'table' in relation && role.way.kind === 'pivot'
        ? {
            table: relation.table.value.name,
            fields: relation.fields.filter(({ hidden }) => !hidden).map((field) => fieldView(model, field)),
          }
        : null,
    back: back?.name ?? (relation?.form === 'symmetric' ? role.name : null),
    position: positionIn(model, role.orderBy.length > 0 ? role.orderBy : (model.entities.get(role.target)?.orderBy ?? [])),
  };
}

/** The number that an order begins with, of the rows themselves or of the pairs that lead to them; null for another order. */
function positionIn(model: Model, [first]: readonly Order[]): PositionView | null {
  if (first === undefined) return null;
  const { expression } = first;
  if (expression.type.kind !== 'integer') return null;
  if (expression.kind === 'pivot field') return { field: expression.field, ofPair: true, unique: false };
  if (expression.kind !== 'field' || expression.hops.length > 0) return null;
  const { fields, uniques } = entityOf(model, expression.entity);
  const field = fields.find(({ name }) => name === expression.field);
  // A key stays as it is, and what is computed is nobody's to give.
  if (field === undefined || field.key || field.fixed || field.physical.generated !== null) return null;
  const unique = field.unique !== null || uniques.some(({ members }) => members.includes(field.name));
  return { field: field.name, ofPair: false, unique };
}

/** Of a composed title, the field that it begins with. */
function firstField(expression: Expression): string | null {
  if (expression.kind === 'field' && expression.hops.length === 0) return expression.field;
  if (expression.kind === 'binary') return firstField(expression.left) ?? firstField(expression.right);
  return null;
}

function typeWord(type: ExpressionType): string {
  return describeType(type).replace(/^an? /, '');
}

function dedented(body: string): string {
  const lines = body.split('\n').filter((line, index, all) => line.trim() !== '' || (index > 0 && index < all.length - 1));
  const indent = Math.min(...lines.filter((line) => line.trim() !== '').map((line) => line.length - line.trimStart().length));
  return lines
    .map((line) => line.slice(Number.isFinite(indent) ? indent : 0))
    .join('\n')
    .trim();
}
