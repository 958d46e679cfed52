import { COMPOSITE_KEY, type Entity, entityOf, type Field, KIND_NAME, lineage, pivotOf, type Role } from '../../model/index.js';
import { type PlannedExpression, type PlannedField, pairsOf } from '../../plan/index.js';
import { allOf, anyOf, column, firstItemOf, isSameColumn, itemsOf, type SqlExpression } from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';
import type { CompiledLoad, KindOutput, Output } from './compiled.js';
import type { Compiling, SourceRow } from './compiling.js';
import { compiled } from './expressions.js';

/** PostgreSQL cuts names behind 63 bytes, MariaDB refuses those of more than 64 letters: a letter may be of several bytes. */
const LONGEST_NAME = 40;

const TEXT: ValueType = { kind: 'text', length: null };
const BOOLEAN: ValueType = { kind: 'boolean' };

/** The columns of a select, each taken once, with what becomes of them in the answer. */
export class Columns {
  readonly selected: { expression: SqlExpression; as: string }[] = [];
  readonly outputs: Output[] = [];
  /** What tells the kind of each row; null where all are of one. */
  kind: KindOutput | null = null;

  /** @param names those that are taken in the statement */
  constructor(
    private readonly compiling: Compiling,
    readonly row: SourceRow,
    readonly entity: Entity,
    readonly names = new Set<string>(),
  ) {}

  /** Takes up what an answer has of each row. */
  addFields(fields: readonly PlannedField[]): void {
    const held = fields.flatMap((field) => (field.kind === 'held key' ? [field.role] : []));
    for (const field of fields) this.addField(field, held);
  }

  private addField(field: PlannedField, held: readonly Role[]): void {
    switch (field.kind) {
      case 'stored':
        this.addStored(field.field, field.kinds);
        return;
      case 'derived':
        this.addDerived(field);
        return;
      case 'whole key':
        this.addComposite(this.row.builder.key(this.row.alias), COMPOSITE_KEY, this.entity.key.type, null);
        return;
      case 'held key':
        this.addHeld(field.role, field.kinds, held);
        return;
      case 'kind':
        this.kind = this.addKind(field.always);
        return;
      case 'pivot field': {
        const pivot = pivotOf(this.compiling.model, field.relation);
        const { alias } = this.row.builder.at(pairsOf(this.row.access));
        const { name, type, column: stored } = field.field;
        this.add(column(alias, stored.value), name, type, name, pivot.table.value.name);
        return;
      }
      case 'hidden':
        this.addHidden(field.name, field.kinds);
        return;
    }
  }

  /** What tells the kind of each row; null where all rows are of the entity that was asked for. */
  private addKind(always: boolean): KindOutput | null {
    const { builder, alias } = this.row;
    const { kinds } = this.entity;
    const several = kinds !== null && (kinds.concrete.length > 1 || kinds.concrete[0]?.entity !== this.entity.name);
    if (!several) return always ? { as: null, marks: {}, otherwise: this.entity.name } : null;
    const reading = builder.reading(alias);
    if (reading.mark === null) return null;
    const as = this.add(reading.mark(), KIND_NAME, TEXT, null);
    const marks = reading.marksOf(kinds.concrete);
    const named = marks.map((mark, index) => [mark, kinds.concrete[index]?.entity ?? ''] as const);
    return { as, marks: Object.fromEntries(named), otherwise: this.entity.name };
  }

  /** An expression of the row as a column of its own. A name that an engine would cut, or refuse, is the answer's alone. */
  addShown(name: string, expression: PlannedExpression): void {
    const wish = name.length > LONGEST_NAME ? 'shown' : name;
    this.addDerived({ kind: 'derived', name, expression, type: expression.type, kinds: null }, wish);
  }

  /** Columns that only serve to find related rows; those that are there already where there are. */
  addKey(key: SqlExpression, types: readonly ValueType[]): string[] {
    return itemsOf(key).map((part, index) => {
      const there = this.selected.find(({ expression }) => isSameColumn(expression, part));
      return there?.as ?? this.add(part, part.kind === 'column' ? part.column : 'key', types[index] ?? TEXT, null);
    });
  }

  /** The columns that tell a row from all others: its key, and where kinds stand in tables of their own, its kind. */
  addIdentity(): string[] {
    const { builder, alias } = this.row;
    const { key, kinds } = this.entity;
    const mark = kinds === null ? null : builder.reading(alias).mark;
    return [
      ...this.addKey(
        builder.key(alias),
        key.fields.map(({ type }) => type),
      ),
      ...(mark === null ? [] : this.addKey(mark(), [TEXT])),
    ];
  }

  /** A column that has rows as JSON. */
  addNested(json: SqlExpression, wish: string): string {
    const as = this.free(wish);
    this.selected.push({ expression: json, as });
    this.outputs.push({ as, type: { kind: 'json' }, name: null, pivot: null, parts: null, kinds: null, nested: true });
    return as;
  }

  /** The columns by which the rows behind a role are sought: the key that stands here, or this row's own. */
  addHeldKey(role: Role): string[] {
    const { builder, alias } = this.row;
    const { model } = this.compiling;
    const { way } = role;
    if (way.kind !== 'key')
      return this.addKey(
        builder.key(alias),
        entityOf(model, role.entity).key.fields.map(({ type }) => type),
      );
    const types = way.mark?.held == null ? entityOf(model, role.target).key.fields.map(({ type }) => type) : [way.mark.held];
    return this.addKey(builder.columns(alias, role.entity, way.columns), types);
  }

  /** The column that is true for rows of which the row behind a role may not be seen; null where no wall can hide it. */
  addHiddenBy(role: Role): string | null {
    return this.addHiddenOf([role]);
  }

  /** The same for roles whose keys stand in one column: that of none of them may be seen. */
  private addHiddenOf(roles: readonly Role[]): string | null {
    const { builder, access, alias } = this.row;
    const behind = roles.map((role) => ({ role, there: this.compiling.behind(access.id, role) }));
    const [first] = roles;
    if (first === undefined || first.way.kind !== 'key' || behind.every(({ there }) => there === null)) return null;
    const isNull = (operand: SqlExpression): SqlExpression => ({ kind: 'is null', operand, negated: false });
    const unseen = behind.map(({ role, there }) =>
      isNull(firstItemOf(there === null ? builder.heldKey(role, alias) : builder.key(builder.at(there.id).alias))),
    );
    // A key that is none of any role's rows is shown as it stands: it leads nowhere.
    const held = roles.map((role) => ({ ...isNull(firstItemOf(builder.heldKey(role, alias))), negated: true }) as SqlExpression);
    const hidden = allOf([anyOf(held), ...unseen]) ?? { kind: 'null' };
    const there = this.selected.find(({ expression }) => this.compiling.print(expression) === this.compiling.print(hidden));
    return there?.as ?? this.add(hidden, `${first.name}_hidden`, BOOLEAN, null);
  }

  /** What tells the rows that have something behind a role from those that never do. */
  addOwnersOf(role: Role): CompiledLoad['owners'] {
    const { builder, alias } = this.row;
    const { way } = role;
    if (way.kind === 'key' && way.mark !== null) {
      const [as = ''] = this.addKey(builder.column(alias, role.entity, way.mark.column), [TEXT]);
      return { as, values: way.mark.values, ofKind: false };
    }
    const kind = entityOf(this.compiling.model, role.entity);
    const below = this.entity.name !== role.entity && lineage(this.compiling.model, role.entity).includes(this.entity);
    const reading = builder.reading(alias);
    if (!below || kind.kinds === null || reading.mark === null) return null;
    const [as = ''] = this.addKey(reading.mark(), [TEXT]);
    return { as, values: reading.marksOf(kind.kinds.concrete), ofKind: true };
  }

  private addDerived({ name, expression, type, kinds }: Extract<PlannedField, { kind: 'derived' }>, wish = name): void {
    const value = compiled(this.compiling, this.row, expression);
    if (type.kind === 'row') {
      const { key } = entityOf(this.compiling.model, type.entity);
      if (value.kind === 'tuple') this.addComposite(value, name, key.type, kinds);
      else this.add(value, wish, key.type, name, null, kinds);
      return;
    }
    this.add(value, wish, type.kind === 'interval' || type.kind === 'null' ? TEXT : type, name, null, kinds);
  }

  /** The columns of a key that rows hold, under their physical names. */
  private addHeld(role: Role, kinds: readonly string[] | null, held: readonly Role[]): void {
    const { way } = role;
    if (way.kind !== 'key') return;
    const beside = held.filter((other) => other.way.kind === 'key' && other.way.columns.join('\n') === way.columns.join('\n'));
    const hiddenBy = this.addHiddenOf(beside);
    if (way.mark !== null) this.addKeyColumn(role, way.mark.column, TEXT, kinds, hiddenBy);
    const { fields } = entityOf(this.compiling.model, role.target).key;
    for (const [index, name] of way.columns.entries()) {
      const type = way.mark?.held ?? fields[index]?.type;
      if (type !== undefined) this.addKeyColumn(role, name, type, kinds, hiddenBy);
    }
  }

  private addHidden(name: string, kinds: readonly string[] | null): void {
    const as = this.free(name);
    this.selected.push({ expression: { kind: 'null' }, as });
    this.outputs.push({ as, type: TEXT, name, pivot: null, parts: null, kinds, hidden: true });
  }

  private addKeyColumn(
    role: Role,
    name: string,
    type: ValueType,
    kinds: readonly string[] | null,
    hiddenBy: string | null,
  ): void {
    const holder = entityOf(this.compiling.model, role.entity);
    const there = [...holder.fields, ...holder.key.fields].some((field) => field.column.value === name);
    const same = this.outputs.some((output) => output.name === name && output.kinds?.join() === kinds?.join());
    if (there || same) return;
    this.add(this.row.builder.column(this.row.alias, role.entity, name), name, type, name, null, kinds);
    const output = this.outputs.pop();
    if (output !== undefined) this.outputs.push(hiddenBy === null ? output : { ...output, hiddenBy });
  }

  private addStored(field: Field, kinds: readonly string[] | null): void {
    const reading = this.row.builder.reading(this.row.alias);
    const json = reading.delivered(field.owner, field);
    const as = this.add(json ?? reading.field(field.owner, field), field.name, field.type, field.name, null, kinds);
    if (json === null) return;
    const at = this.outputs.findIndex((output) => output.as === as);
    const output = this.outputs[at];
    if (output !== undefined) this.outputs[at] = { ...output, inJson: true };
  }

  /** A composite key as one value of the answer: its parts are selected, and put together when they have arrived. */
  private addComposite(key: SqlExpression, name: string, type: ValueType, kinds: readonly string[] | null): void {
    const types = type.kind === 'composite' ? type.parts : [type];
    const parts = itemsOf(key).map((item, index) => {
      const there = this.selected.find(({ expression }) => isSameColumn(expression, item));
      return there?.as ?? this.add(item, `${name}_${index + 1}`, types[index] ?? TEXT, null);
    });
    this.outputs.push({ as: this.free(name), type, name, pivot: null, parts, kinds });
  }

  private add(
    expression: SqlExpression,
    wish: string,
    type: ValueType,
    name: string | null,
    pivot: string | null = null,
    kinds: readonly string[] | null = null,
  ): string {
    const as = this.free(wish);
    this.selected.push({ expression, as });
    this.outputs.push({ as, type, name, pivot, parts: null, kinds });
    return as;
  }

  private free(wish: string): string {
    let as = wish;
    for (let count = 2; this.names.has(as.toLowerCase()); count++) as = `${wish}_${count}`;
    this.names.add(as.toLowerCase());
    return as;
  }
}
