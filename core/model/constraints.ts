import type { EntityLine, KeptLine, Name, OrderTerm } from '../notation/index.js';
import { reachesOf, readStated } from '../sql/index.js';
import type { Context } from './context.js';
import { memberOf } from './context.js';
import { type EntityDraft, lineageOf, type Resolution, unknownMember, unknownName, wrong } from './draft.js';
import type { Expression, Order } from './expression.js';
import { reading, resolveCondition, resolveExpression } from './expressions.js';
import {
  type AnyPivotRelation,
  COMPOSITE_KEY,
  type ColumnGroup,
  type Condition,
  type DerivedField,
  type Entity,
  farColumns,
  type KeptSql,
} from './model.js';
import { resolveDerived } from './paths.js';
import { refer } from './references.js';

/** The finished entity, once every role is known; its paths and what is always loaded are still to come. */
export function finishEntity(resolution: Resolution, draft: EntityDraft, base: Entity | null): Entity {
  const context: Context = {
    resolution,
    reading,
    entity: draft,
    pivot: null,
    parameters: new Map(),
    label: draft.name,
    query: null,
    reach: 'all',
    resolving: [],
  };
  const uniques: ColumnGroup[] = [];
  const indexes: ColumnGroup[] = [];
  const checks: Condition[] = [];
  const rules: Condition[] = [];
  const derived: DerivedField[] = [...(base?.derived ?? [])];
  let orderBy: readonly Order[] = base?.orderBy ?? [];
  let shownAs: Entity['shownAs'] | null = base?.shownAs.origin.kind === 'stated' ? base.shownAs : null;
  const kept: KeptSql[] = [];
  let note: string | null = null;
  for (const line of draft.lines) {
    switch (line.kind) {
      case 'unique':
      case 'index': {
        const group = resolveGroup(context, line, (name) => columnsOfMember(context, draft, name));
        if (group !== null) (line.kind === 'unique' ? uniques : indexes).push(group);
        break;
      }
      case 'check':
      case 'rule': {
        const condition = resolveNamedCondition(context, line, [...checks, ...rules]);
        if (condition !== null) (line.kind === 'check' ? checks : rules).push(condition);
        break;
      }
      case 'derived': {
        const field = resolveDerived(context, draft, line.name);
        if (field !== null) derived.push(field);
        break;
      }
      case 'shown as': {
        const expression = resolveExpression({ ...context, label: `${draft.name}, shown as`, reach: 'own' }, line.expression);
        if (expression !== null) shownAs = { value: expression, origin: { kind: 'stated', span: line.span } };
        break;
      }
      case 'order by':
        orderBy = resolveOrder({ ...context, label: `${draft.name}, order by` }, line.terms);
        break;
      case 'kept':
        kept.push(...keptOf(resolution, line));
        break;
      case 'note':
        note = line.text.value;
        break;
      default:
    }
  }
  return {
    name: draft.name,
    table: draft.table,
    fields: draft.fields,
    key: draft.key,
    derived,
    uniques,
    indexes,
    checks,
    rules,
    shownAs: shownAs ?? shownByDefault(draft),
    orderBy,
    roles: draft.roles,
    polymorphic: draft.polymorphic,
    paths: [],
    alwaysLoad: [],
    kinds: draft.kinds,
    given: draft.given,
    mixins: Array.from(new Set(lineageOf(draft).flatMap((one) => one.mixins))),
    kept,
    note,
    span: draft.span,
    head: draft.head,
  };
}

/**
 * SQL that a line keeps, with its lines joined; it is of the tree's dialect where the line does not say. Nothing, with a
 * finding, where it is more than one thing or does more than make it: it would be run as soon as the tables are made.
 */
export function keptOf(resolution: Resolution, line: KeptLine): KeptSql[] {
  const sql = line.sql.map((text) => text.value).join('\n');
  const dialect = line.dialect ?? resolution.dialect;
  const read = readStated(sql, dialect);
  if (!read.ok) {
    wrong(resolution, 'kept-sql', line.span, `This kept SQL is left out: ${read.why}.`);
    return [];
  }
  return [{ sql, dialect, form: read.form, makes: read.makes, reaches: reachesOf(dialect, read.tokens), span: line.span }];
}

/** Finishes a pivot: the constraints that stand below its storage line. */
export function finishPivot<Pivot extends AnyPivotRelation>(
  resolution: Resolution,
  relation: Pivot,
  lines: readonly EntityLine[],
): Pivot {
  const owner: EntityDraft = {
    name: `relation ${relation.name}`,
    pivotOf: relation.name,
    table: relation.table,
    fields: relation.fields,
    key: { fields: [], columns: [], type: { kind: 'composite', parts: [] }, name: COMPOSITE_KEY, byRow: false, named: null },
    lines,
    owners: new Map(),
    mixins: [],
    roles: [],
    polymorphic: [],
    roleNames: new Map(),
    fieldNames: new Map(relation.fields.map((field) => [field.name.toLowerCase(), field])),
    base: null,
    kinds: null,
    given: relation.given,
    derived: new Map(),
    span: relation.span,
    head: relation.head,
  };
  const context: Context = {
    resolution,
    reading,
    entity: owner,
    pivot: null,
    parameters: new Map(),
    label: owner.name,
    query: null,
    reach: 'all',
    resolving: [],
  };
  const uniques: ColumnGroup[] = [];
  const indexes: ColumnGroup[] = [];
  const checks: Condition[] = [];
  const keptInTable: KeptSql[] = [];
  const ends = pivotKeyColumns(relation);
  const columns = (name: Name): readonly string[] | null => {
    if (ends.includes(name.text)) return [name.text];
    const field = relation.fields.find((candidate) => candidate.name === name.text);
    if (field !== undefined) {
      refer(resolution.references, name, 'pivot field', relation.name);
      return [field.column.value];
    }
    return unknownName(resolution, name, `field of ${relation.table.value.name} called`, [
      ...ends,
      ...relation.fields.map((f) => f.name),
    ]);
  };
  for (const line of lines) {
    if (line.kind === 'unique' || line.kind === 'index') {
      const group = resolveGroup(context, line, columns);
      if (group !== null) (line.kind === 'unique' ? uniques : indexes).push(group);
    } else if (line.kind === 'check') {
      const check = resolveNamedCondition(context, line, checks);
      if (check !== null) checks.push(check);
    } else if (line.kind === 'kept') {
      keptInTable.push(...keptOf(resolution, line));
    } else if (line.kind !== 'field' && line.kind !== 'note') {
      wrong(
        resolution,
        'pivot-line',
        line.span,
        `relation ${relation.name}: a pivot has fields, unique, index, check and kept; this line does not fit there.`,
      );
    }
  }
  return { ...relation, uniques, indexes, checks, keptInTable };
}

function resolveGroup(
  context: Context,
  line: Extract<EntityLine, { kind: 'unique' | 'index' }>,
  columnsOf: (name: Name) => readonly string[] | null,
): ColumnGroup | null {
  const columns: string[] = [];
  for (const name of line.fields) {
    const found = columnsOf(name);
    if (found === null) return null;
    // Roles may share a column, which then counts once.
    const more = found.filter((column) => !columns.includes(column));
    if (more.length === 0)
      return wrong(
        context.resolution,
        'named-twice',
        name.span,
        `${context.label}: ${line.kind} names ${name.text} twice. Remove one.`,
      );
    columns.push(...more);
  }
  return {
    members: line.fields.map((name) => name.text),
    columns,
    message: line.tail.message?.value ?? null,
    note: line.tail.note?.value ?? null,
    named: line.tail.named?.text ?? null,
    asIndex: line.tail.asIndex?.text ?? null,
    span: line.span,
  };
}

/** A role stands for its stored columns, so that `unique (site, code)` reads as it is meant. */
function columnsOfMember(context: Context, draft: EntityDraft, name: Name): readonly string[] | null {
  const { resolution } = context;
  const member = memberOf(resolution, draft, name);
  if (member?.kind === 'field') return [member.field.column.value];
  if (member?.kind === 'role') {
    if (member.role.way.kind === 'key') return member.role.way.columns;
    return wrong(
      resolution,
      'role-stored-elsewhere',
      name.span,
      `${draft.name}.${name.text} is not stored in ${draft.table.value.name}, so no constraint there can use it.`,
    );
  }
  if (member?.kind === 'polymorphic') {
    const columns = member.role.branches.flatMap(({ way }) =>
      way.kind === 'key' ? [...(way.mark === null ? [] : [way.mark.column]), ...way.columns] : [],
    );
    if (columns.length > 0) return Array.from(new Set(columns));
  }
  const stored = storedColumns(draft);
  if (stored.includes(name.text)) return [name.text];
  const known = [
    ...draft.fields.map((field) => field.name),
    ...draft.roles.filter((role) => role.way.kind === 'key').map((role) => role.name),
  ];
  return unknownMember(
    resolution,
    draft,
    name,
    `${draft.name}, a constraint over ${name.text}`,
    `stored field or role of ${draft.name} called`,
    known,
  );
}

/** The columns of an entity that hold keys of other rows, and the marks beside them. */
function storedColumns(draft: EntityDraft): string[] {
  const branches = draft.polymorphic.flatMap((role) => role.branches);
  return [...draft.roles, ...branches].flatMap(({ way }) =>
    way.kind === 'key' ? [...(way.mark === null ? [] : [way.mark.column]), ...way.columns] : [],
  );
}

/** The columns of a pivot that hold keys, and the mark beside one of them. */
function pivotKeyColumns(relation: AnyPivotRelation): string[] {
  if (relation.kind === 'pivot') return relation.ends.flatMap((end) => end.columns.map((column) => column.value));
  return [...relation.near.columns, ...farColumns(relation)].map(({ value }) => value);
}

function resolveNamedCondition(
  context: Context,
  line: Extract<EntityLine, { kind: 'check' | 'rule' }>,
  known: readonly Condition[],
): Condition | null {
  if (known.some((condition) => condition.name.toLowerCase() === line.name.text.toLowerCase())) {
    return wrong(
      context.resolution,
      'name-clash',
      line.name.span,
      `${context.label} has a check or rule ${line.name.text} already. Rename one of the two.`,
    );
  }
  refer(context.resolution.references, line.name, line.kind, context.label, true);
  const label = `${context.label}, ${line.kind} ${line.name.text}`;
  const expression = resolveCondition({ ...context, label, reach: line.kind === 'check' ? 'row' : 'all' }, line.expression);
  return expression === null
    ? null
    : {
        name: line.name.text,
        expression,
        message: line.tail.message?.value ?? null,
        note: line.tail.note?.value ?? null,
        named: line.tail.named?.text ?? null,
        span: line.span,
      };
}

/** The terms of an order; one that is wrong is told and left out. */
export function resolveOrder(context: Context, terms: readonly OrderTerm[]): Order[] {
  return terms.flatMap((term) => {
    const expression = resolveExpression(context, term.expression);
    return expression === null ? [] : [{ expression, descending: term.descending }];
  });
}

function shownByDefault(draft: EntityDraft): Entity['shownAs'] {
  // A text that points at another row, or is but a part of the key, says less of this one.
  const pointing = new Set(draft.roles.flatMap((role) => (role.way.kind === 'key' ? role.way.columns : [])));
  const isPart = (column: string) => pointing.has(column) || (draft.key.fields.length > 1 && draft.key.columns.includes(column));
  const text = draft.fields.find(
    (field) => (field.type.kind === 'text' || field.type.kind === 'choice') && !field.hidden && !isPart(field.column.value),
  );
  const field = text ?? draft.fields.find((candidate) => candidate.name === draft.key.name) ?? null;
  if (field === null) {
    const value: Expression = { kind: 'role', hops: [], type: { kind: 'row', entity: draft.name }, span: draft.head };
    return { value, origin: { kind: 'convention', rule: 'the key, since no field is a text' } };
  }
  const value: Expression = {
    kind: 'field',
    hops: [],
    entity: draft.name,
    field: field.name,
    type: field.type,
    span: field.span,
  };
  return {
    value,
    origin: { kind: 'convention', rule: text === undefined ? 'the key, since no field is a text' : 'the first text field' },
  };
}
