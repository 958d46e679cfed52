import {
  COMPOSITE_KEY,
  type Entity,
  entityOf,
  type Field,
  fieldOf,
  KIND_NAME,
  lineage,
  pivotOf,
  type Role,
} from '../model/index.js';
import { column, type SqlExpression } from '../sql/index.js';
import type { ValueType } from '../values/index.js';
import { type Planning, plannedSql, type Row, sameColumn } from './conditions.js';
import type { KindOutput, LoadPlan, Output } from './plan.js';

const TEXT: ValueType = { kind: 'text', length: null };

/** The columns of a select, each taken once, with what becomes of them in the answer. */
export class Columns {
  readonly selected: { expression: SqlExpression; as: string }[] = [];
  readonly outputs: Output[] = [];
  private readonly names = new Set<string>();

  constructor(
    private readonly planning: Planning,
    private readonly row: Row,
    readonly entity: Entity,
  ) {}

  /**
   * The named fields, or all that are not hidden: of a base, those of its kinds too, each for rows of that kind. The key
   * always, since the answer's rows are told apart by it.
   */
  addFields(fields: readonly string[] | null): void {
    const { entity } = this;
    for (const field of entity.key.fields) {
      if (
        fields === null ? entity.fields.some(({ name, hidden }) => name === field.name && !hidden) : fields.includes(field.name)
      )
        continue;
      this.addStored(field, null);
    }
    if (this.planning.rowKeys && entity.key.type.kind === 'composite')
      this.addComposite(this.row.builder.key(this.row.alias), COMPOSITE_KEY, entity.key.type, null);
    this.addFieldsOf(entity, fields, null);
    if (fields !== null) return;
    for (const kind of this.kindsBelow()) {
      const own = kind.fields.filter(({ owner }) => owner === kind.name);
      const derived = kind.derived.filter(({ name }) => !this.inherits(kind, name));
      const wanted = [...own.filter(({ hidden }) => !hidden), ...derived].map(({ name }) => name);
      this.addFieldsOf(kind, wanted, kind.kinds?.concrete.map((one) => one.entity) ?? null);
    }
  }

  /** The key columns that no field declares, under their physical names: what a row points at is part of it. */
  addKeyColumns(): void {
    this.addKeyColumnsOf(this.entity, this.entity.name, null);
    for (const kind of this.kindsBelow()) {
      this.addKeyColumnsOf(kind, kind.name, kind.kinds?.concrete.map((one) => one.entity) ?? null);
    }
  }

  /** What tells the kind of each row; null where all rows are of the entity that was asked for. */
  addKind(always = false): KindOutput | null {
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

  addPivotFields(relation: string, fields: readonly string[] | null): void {
    const pivot = pivotOf(this.planning.model, relation);
    const wanted = fields ?? pivot.fields.filter((field) => !field.hidden).map((field) => field.name);
    for (const name of wanted) {
      const field = fieldOf(pivot.fields, name);
      const source = column(this.row.pivotAlias, field.column.value);
      this.add(source, field.name, field.type, field.name, pivot.table.value.name);
    }
  }

  /** Columns that only serve to find related rows; those that are there already where there are. */
  addKey(key: SqlExpression, types: readonly ValueType[]): string[] {
    const parts = key.kind === 'tuple' ? key.items : [key];
    return parts.map((part, index) => {
      const there = this.selected.find(({ expression }) => sameColumn(expression, part));
      return there?.as ?? this.add(part, part.kind === 'column' ? part.column : 'key', types[index] ?? TEXT, null);
    });
  }

  /** The columns by which the rows behind a role are sought: the key that stands here, or this row's own. */
  addHeldKey(role: Role): string[] {
    const { builder, alias } = this.row;
    const { model } = this.planning;
    const { way } = role;
    if (way.kind !== 'key')
      return this.addKey(
        builder.key(alias),
        entityOf(model, role.entity).key.fields.map(({ type }) => type),
      );
    const types = way.mark?.held == null ? entityOf(model, role.target).key.fields.map(({ type }) => type) : [way.mark.held];
    return this.addKey(builder.columns(alias, role.entity, way.columns), types);
  }

  /** What tells the rows that have something behind a role from those that never do. */
  addOwnersOf(role: Role): LoadPlan['owners'] {
    const { builder, alias } = this.row;
    const { way } = role;
    if (way.kind === 'key' && way.mark !== null) {
      const [as = ''] = this.addKey(builder.column(alias, role.entity, way.mark.column), [TEXT]);
      return { as, values: way.mark.values, ofKind: false };
    }
    const kind = entityOf(this.planning.model, role.entity);
    const below = this.entity.name !== role.entity && lineage(this.planning.model, role.entity).includes(this.entity);
    const reading = builder.reading(alias);
    if (!below || kind.kinds === null || reading.mark === null) return null;
    const [as = ''] = this.addKey(reading.mark(), [TEXT]);
    return { as, values: reading.marksOf(kind.kinds.concrete), ofKind: true };
  }

  private addFieldsOf(entity: Entity, fields: readonly string[] | null, kinds: readonly string[] | null): void {
    const wanted = fields ?? [
      ...entity.fields.filter((field) => !field.hidden).map((field) => field.name),
      ...entity.derived.map((derived) => derived.name),
    ];
    for (const name of wanted) {
      const derived = entity.derived.find((candidate) => candidate.name === name);
      if (derived === undefined) {
        const field = fieldOf(entity.fields, name);
        this.addStored(field, kinds);
        continue;
      }
      const value = plannedSql(this.planning, this.row, derived.expression);
      if (derived.type.kind === 'row') {
        const { key } = entityOf(this.planning.model, derived.type.entity);
        if (value.kind === 'tuple') this.addComposite(value, name, key.type, kinds);
        else this.add(value, name, key.type, name, null, kinds);
        continue;
      }
      const type: ValueType = derived.type.kind === 'interval' || derived.type.kind === 'null' ? TEXT : derived.type;
      this.add(value, name, type, name, null, kinds);
    }
  }

  private addKeyColumnsOf(entity: Entity, owner: string, kinds: readonly string[] | null): void {
    const branches = entity.polymorphic.flatMap((role) => role.branches);
    for (const role of [...entity.roles, ...branches]) {
      const { way } = role;
      if (way.kind !== 'key' || (kinds !== null && role.entity !== owner)) continue;
      if (way.mark !== null) this.addKeyColumn(role, way.mark.column, { kind: 'text', length: null }, kinds);
      const { fields } = entityOf(this.planning.model, role.target).key;
      for (const [index, name] of way.columns.entries()) {
        const type = way.mark?.held ?? fields[index]?.type;
        if (type !== undefined) this.addKeyColumn(role, name, type, kinds);
      }
    }
  }

  private addKeyColumn(role: Role, name: string, type: ValueType, kinds: readonly string[] | null): void {
    const holder = entityOf(this.planning.model, role.entity);
    const there = [...holder.fields, ...holder.key.fields].some((field) => field.column.value === name);
    const same = this.outputs.some((output) => output.name === name && output.kinds?.join() === kinds?.join());
    if (!there && !same) this.add(this.row.builder.column(this.row.alias, role.entity, name), name, type, name, null, kinds);
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

  /** The kinds of the entity, and theirs: what such rows have beside what all have is read along. */
  private kindsBelow(): Entity[] {
    const { model } = this.planning;
    const below = (name: string): Entity[] => {
      const entity = entityOf(model, name);
      return [entity, ...(entity.kinds?.kinds ?? []).flatMap(below)];
    };
    return (this.entity.kinds?.kinds ?? []).flatMap(below);
  }

  private inherits(kind: Entity, derived: string): boolean {
    const base = kind.kinds?.base ?? null;
    return base !== null && entityOf(this.planning.model, base).derived.some(({ name }) => name === derived);
  }

  /** A composite key as one value of the answer: its parts are selected, and put together when they have arrived. */
  private addComposite(key: SqlExpression, name: string, type: ValueType, kinds: readonly string[] | null): void {
    const items = key.kind === 'tuple' ? key.items : [key];
    const types = type.kind === 'composite' ? type.parts : [type];
    const parts = items.map((item, index) => {
      const there = this.selected.find(({ expression }) => sameColumn(expression, item));
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
