import type { Design } from '../design/index.js';
import {
  type Entity,
  type ExpressionType,
  entityOf,
  type Field,
  KIND_NAME,
  type Load,
  type Model,
  pivotOf,
  type Query,
} from '../model/index.js';
import type { ValueType } from '../values/index.js';

/** The rows of a design, and what each saved query answers, as types of TypeScript. */
export function typescriptTypes({ model }: Design): string {
  const parts = [
    `/** ${comment(model.title)}: its rows, and what its saved queries answer. Values are those of JSON. */`,
    HIDDEN,
    ...Array.from(
      model.choices.values(),
      ({ name, values }) => `export type ${name} = ${values.map(({ value }) => quoted(value)).join(' | ')};`,
    ),
    ...Array.from(model.entities.values(), (entity) => entityType(model, entity)),
    ...Array.from(model.queries.values()).flatMap((query) => queryType(model, query)),
  ];
  return `${parts.join('\n\n')}\n`;
}

const HIDDEN = `/** A row that a role leads to, and that whoever asks does not reach. */
export interface Hidden {
  readonly hidden: true;
}`;

function comment(text: string): string {
  return text.replaceAll('*/', '* /').replace(/\s+/g, ' ');
}

function quoted(text: string): string {
  return JSON.stringify(text);
}

/** A name as TypeScript has it for a member. */
function memberName(name: string): string {
  return /^[A-Za-z_$][\w$]*$/.test(name) ? name : quoted(name);
}

function entityType(model: Model, entity: Entity): string {
  const isSeveral = entity.kinds !== null && entity.kinds.kinds.length > 0;
  const note = entity.note === null ? [] : [`/** ${comment(entity.note)} */`];
  if (isSeveral && entity.kinds?.abstract === true)
    return [...note, `export type ${entity.name} = ${kindNames(model, entity).join(' | ')};`].join('\n');
  const lines = [
    ...(entity.kinds === null
      ? []
      : [
          `  readonly ${quoted(KIND_NAME)}: ${[entity.name, ...(isSeveral ? kindNames(model, entity) : [])].map(quoted).join(' | ')};`,
        ]),
    ...entity.fields.filter(({ hidden }) => !hidden).map((field) => line(field.name, fieldType(field), field.note)),
    ...keyColumns(model, entity).map(({ name, type }) => line(name, `${type} | Hidden`, null)),
    ...entity.derived.map((field) => line(field.name, `${expressionType(field.type)} | null`, field.note)),
  ];
  return [...note, `export interface ${entity.name} {`, ...lines, '}'].join('\n');
}

function kindNames(model: Model, { kinds }: Entity): readonly string[] {
  return (kinds?.kinds ?? []).flatMap((name) => {
    const kind = entityOf(model, name);
    const below = kindNames(model, kind);
    return kind.kinds?.abstract === true ? below : [name, ...below];
  });
}

function line(name: string, type: string, note: string | null): string {
  const said = note === null ? '' : `  /** ${comment(note)} */\n`;
  return `${said}  readonly ${memberName(name)}: ${type};`;
}

/** The columns of a row that hold keys of others, and are no fields of it. */
function keyColumns(model: Model, entity: Entity): readonly { readonly name: string; readonly type: string }[] {
  const own = new Set(entity.fields.map((field) => field.column.value));
  const found = new Map<string, string>();
  for (const role of [...entity.roles, ...entity.polymorphic.flatMap(({ branches }) => branches)]) {
    const { way } = role;
    if (way.kind !== 'key') continue;
    const isOptional = role.knows !== 'one' || way.mark !== null;
    const { key } = entityOf(model, role.target);
    way.columns.forEach((name, at) => {
      if (own.has(name)) return;
      const type = way.mark?.held ?? key.fields[at]?.type ?? key.type;
      found.set(name, `${valueTypeText(type)}${isOptional ? ' | null' : ''}`);
    });
    if (way.mark !== null && !own.has(way.mark.column)) found.set(way.mark.column, `string${isOptional ? ' | null' : ''}`);
  }
  return Array.from(found, ([name, type]) => ({ name, type }));
}

function fieldType({ type, required }: Field): string {
  return required ? valueTypeText(type) : `${valueTypeText(type)} | null`;
}

function valueTypeText(type: ValueType): string {
  switch (type.kind) {
    case 'integer':
    case 'real':
      return 'number';
    case 'boolean':
      return 'boolean';
    case 'choice':
      return type.choice;
    case 'json':
    case 'sql':
      return 'unknown';
    case 'bigint':
    case 'decimal':
    case 'text':
    case 'date':
    case 'time':
    case 'timestamp':
    case 'uuid':
    case 'bytes':
    case 'composite':
      return 'string';
  }
}

function expressionType(type: ExpressionType): string {
  switch (type.kind) {
    case 'row':
      return 'string | number';
    case 'interval':
    case 'null':
      return 'null';
    default:
      return valueTypeText(type);
  }
}

function queryType(model: Model, query: Query): readonly string[] {
  const name = typeName(query.name ?? '');
  const note = query.note === null ? [] : [`/** ${comment(query.note)} */`];
  const parameters = query.parameters.map((parameter) => {
    const type = parameter.type.kind === 'row' ? 'string | number' : expressionType(parameter.type);
    const many = parameter.many ? `readonly (${type})[]` : type;
    return `  readonly ${memberName(parameter.name)}${parameter.optional ? '?' : ''}: ${many}${parameter.optional ? ' | null' : ''};`;
  });
  const given =
    parameters.length === 0
      ? []
      : [
          [`/** What ${query.name ?? ''} is asked with. */`, `export interface ${name}Parameters {`, ...parameters, '}'].join(
            '\n',
          ),
        ];
  return [...given, [...note, `export type ${name} = readonly ${name}Row[];`].join('\n'), rowType(model, query, `${name}Row`)];
}

function rowType(model: Model, query: Query, name: string): string {
  if (query.cardinality === 'count') return `export interface ${name} {\n  readonly count: number;\n}`;
  if (query.cardinality === 'exists') return `export interface ${name} {\n  readonly exists: boolean;\n}`;
  if (query.show !== null) {
    const lines = query.show.map(
      ({ name: shown, expression }) => `  readonly ${memberName(shown)}: ${expressionType(expression.type)} | null;`,
    );
    return `export interface ${name} {\n${lines.join('\n')}\n}`;
  }
  return `export type ${name} = ${[query.entity, ...along(model, query.loads, 1)].join(' & ')};`;
}

/** What loads add to a row: a member for each role, whose rows may be of several entities. */
function along(model: Model, loads: readonly Load[], depth: number): readonly string[] {
  if (loads.length === 0) return [];
  const byRole = new Map<string, Load[]>();
  for (const load of loads) byRole.set(load.role.name, [...(byRole.get(load.role.name) ?? []), load]);
  const indent = '  '.repeat(depth);
  const lines = Array.from(byRole, ([role, own]) => {
    const row = own.map((load) => loadedType(model, load, depth)).join(' | ');
    const [first] = own;
    const many = first?.role.knows === 'many' && first.only === null;
    const type = many ? `readonly (${row})[]` : `${row} | Hidden | null`;
    return `${indent}readonly ${memberName(role)}: ${type};`;
  });
  return [`{\n${lines.join('\n')}\n${'  '.repeat(depth - 1)}}`];
}

function loadedType(model: Model, load: Load, depth: number): string {
  const entity = entityOf(model, load.role.target);
  const fields = load.fields === null ? null : [...new Set([...entity.key.fields.map(({ name }) => name), ...load.fields])];
  // Of a union every member has the fields that are picked.
  const row = fields === null ? entity.name : `Pick<${entity.name}, ${fields.map(quoted).join(' | ')}>`;
  return [row, ...pairOf(model, load), ...along(model, load.loads, depth + 1)].join(' & ');
}

/** What an answer tells of the pair over which a row was loaded. */
function pairOf(model: Model, { role, pivotFields }: Load): readonly string[] {
  if (role.way.kind !== 'pivot') return [];
  const pivot = pivotOf(model, role.relation);
  const told = pivot.fields.filter((field) => !field.hidden && (pivotFields === null || pivotFields.includes(field.name)));
  if (told.length === 0) return [];
  const lines = told.map((field) => `readonly ${memberName(field.name)}: ${fieldType(field)}`).join('; ');
  return [`{ readonly ${memberName(pivot.table.value.name)}: { ${lines} } }`];
}

/** `overdue_by_branch` as a type is called: `OverdueByBranch`. */
function typeName(name: string): string {
  return name
    .split('_')
    .map((part) => part.slice(0, 1).toUpperCase() + part.slice(1))
    .join('');
}
