import { type Entity, type Field, lineage, type Model, type Role } from '../model/index.js';
import type { Wire } from '../values/index.js';
import { SYSTEM } from '../walls/index.js';
import { cellsOfRole, type Doing, defaultOf, type FilledColumn, isNumbered, type RowAt } from '../write/index.js';
import { type FileMapping, lacksIn, rolesMapped, rolesNamed, uuidKey } from './mapping.js';
import { kindsBelow } from './uses.js';
import { type FileValue, type ReadValue, readField } from './values.js';

/** What is wrong with a line, and with which of its columns. */
export interface LineProblem {
  readonly column: string | null;
  readonly message: string;
}

/** A value that a line gives, as the row's columns hold it. */
interface FieldStep {
  readonly at: number;
  readonly column: string;
  readonly field: Field;
  readonly slot: number;
  /** What stands where a line says nothing; undefined where that is nothing. */
  readonly fallback: Wire | undefined;
  /** What texts have been read as, of a type whose values come again and take a while to read; null of another. */
  readonly known: Map<string, ReadValue> | null;
}

interface RoleStep {
  /** Its place among the roles that are mapped. */
  readonly at: number;
  readonly column: string;
  readonly roles: readonly Role[];
  readonly slots: readonly number[];
}

/** How lines become rows of one entity: which columns of its table they fill, and with what. */
export class LineReader {
  /** The columns that every row fills, in the order of its values. */
  readonly columns: readonly FilledColumn[];
  /** Those that a line says, rather than a default; by their places. */
  readonly said: readonly number[];
  /** Why no row of this entity can be made of any line; null where it can. */
  readonly lacks: string | null;
  private readonly fields: readonly FieldStep[];
  private readonly roles: readonly RoleStep[];
  private readonly template: readonly Wire[];
  private readonly uuidAt: number | null;
  /** The place of a key that the engine gives a number where a line gives none; null where no column is it. */
  readonly numberedAt: number | null;
  private readonly foreign: readonly { readonly at: number; readonly column: string }[];
  private readonly targets = new WeakMap<RowAt, readonly Wire[]>();

  constructor(
    private readonly doing: Doing,
    private readonly entity: Entity,
    private readonly mapping: FileMapping,
  ) {
    const { model } = doing;
    const columns: FilledColumn[] = [];
    const template: Wire[] = [];
    const slotOf = (one: FilledColumn, value: Wire = null): number => {
      const known = columns.findIndex(({ column }) => column === one.column);
      if (known >= 0) return known;
      template.push(value);
      return columns.push(one) - 1;
    };
    const fields: FieldStep[] = [];
    const foreign: { at: number; column: string }[] = [];
    for (const [at, { name: column, use }] of mapping.columns.entries()) {
      if (use.kind !== 'field') continue;
      const field = entity.fields.find(({ name }) => name === use.field);
      if (field === undefined) {
        foreign.push({ at, column });
        continue;
      }
      fields.push({
        at,
        column,
        field,
        slot: slotOf(cellColumn(field)),
        fallback: defaultOf(doing, field),
        known: COME_AGAIN.has(field.type.kind) ? new Map() : null,
      });
    }
    const roles: RoleStep[] = [];
    for (const [at, mapped] of rolesMapped(mapping).entries()) {
      const named = rolesNamed(entity, mapped.role);
      const column = mapping.columns[mapped.said[0]?.at ?? 0]?.name ?? mapped.role;
      if (named.length === 0) {
        foreign.push(...mapped.said.map((one) => ({ at: one.at, column })));
        continue;
      }
      const cells = named.flatMap((role) => cellsOfRole(model, role, null));
      const slots = new Set(cells.map(({ value: _, ...cell }) => slotOf({ ...cell, name: mapped.role })));
      roles.push({ at, column, roles: named, slots: Array.from(slots) });
    }
    const said = columns.map((_, at) => at);
    for (const field of entity.fields) {
      if (columns.some(({ column }) => column === field.column.value) || field.physical.generated !== null) continue;
      const value = defaultOf(doing, field);
      if (value !== undefined) slotOf(cellColumn(field), value);
    }
    const uuid = uuidKey(entity);
    this.uuidAt = uuid === null ? null : slotOf(cellColumn(uuid));
    const [key] = entity.key.fields;
    const numbered =
      key === undefined || !isNumbered(entity, key) ? -1 : columns.findIndex(({ column }) => column === key.column.value);
    this.numberedAt = numbered < 0 ? null : numbered;
    this.columns = columns;
    this.said = said;
    this.fields = fields;
    this.roles = roles;
    this.template = template;
    this.foreign = foreign;
    const lacks = lacksIn(model, entity, mapping, doing.actor === SYSTEM);
    this.lacks = lacks.length === 0 ? null : `${entity.name}.${lacks.join(', ')} is required, and no column of the file is it.`;
  }

  /**
   * The values of a line in the order of the columns, or all that is wrong with it.
   *
   * @param targets the row that each role's columns mean, in the order of the roles that are mapped; null where they say nothing
   */
  read(
    values: readonly FileValue[],
    targets: readonly (RowAt | { readonly problem: string } | null)[],
  ): { readonly ok: true; readonly row: readonly Wire[] } | { readonly ok: false; readonly problems: readonly LineProblem[] } {
    const row = this.template.slice();
    const problems: LineProblem[] = [];
    for (const { at, column } of this.foreign)
      if ((saidIn(values[at], this.mapping) ?? null) !== null)
        problems.push(wrong(column, `${this.entity.name} has no such field or role. Leave it empty in this line.`));
    for (const step of this.fields) {
      const value = saidIn(values[step.at], this.mapping);
      if (value === null || value === undefined) {
        if (step.slot === this.numberedAt || step.slot === this.uuidAt) continue;
        const left = leftOf(step, value);
        if (left === undefined) problems.push(wrong(step.column, 'it is required, and this line says nothing.'));
        else row[step.slot] = left;
        continue;
      }
      const read = readOnce(step, value);
      if (read.ok) row[step.slot] = read.value;
      else problems.push(wrong(step.column, read.problem));
    }
    for (const { at, column, roles, slots } of this.roles) {
      const target = targets[at] ?? null;
      if (target === null) {
        if (roles.every(({ knows }) => knows === 'one'))
          problems.push(wrong(column, 'it is required, and this line says nothing.'));
        continue;
      }
      if ('problem' in target) {
        problems.push(wrong(column, target.problem));
        continue;
      }
      const cells = this.cellsOf(roles, target);
      for (let cell = 0; cell < cells.length; cell++) row[slots[cell] ?? 0] = cells[cell] ?? null;
    }
    if (this.uuidAt !== null) row[this.uuidAt] ??= this.doing.nextUuid();
    return problems.length === 0 ? { ok: true, row } : { ok: false, problems };
  }

  /** What the columns of a role hold where it leads to a row. */
  private cellsOf(roles: readonly Role[], target: RowAt): readonly Wire[] {
    const known = this.targets.get(target);
    if (known !== undefined) return known;
    const { model } = this.doing;
    const [only, ...more] = roles;
    const family = lineage(model, target.entity).map((one) => one.name);
    const role = more.length === 0 ? only : (roles.find((one) => family.includes(one.target)) ?? only);
    const held = new Map<string, Wire>();
    for (const one of roles) for (const { column } of cellsOfRole(model, one, null)) held.set(column, null);
    if (role !== undefined) for (const { column, value } of cellsOfRole(model, role, target)) held.set(column, value);
    const cells = Array.from(held.values());
    this.targets.set(target, cells);
    return cells;
  }
}

/** The types of which a file has the same values many times, and which are read by more than a look. */
const COME_AGAIN: ReadonlySet<string> = new Set(['date', 'time', 'timestamp', 'decimal', 'choice', 'boolean']);
const MOST_KNOWN = 2000;

function readOnce({ field, known }: FieldStep, value: NonNullable<FileValue>): ReadValue {
  if (known === null || typeof value !== 'string') return readField(field, value);
  const before = known.get(value);
  if (before !== undefined) return before;
  const read = readField(field, value);
  if (known.size >= MOST_KNOWN) known.clear();
  known.set(value, read);
  return read;
}

/**
 * What a field holds of which a line says nothing; undefined where it has to hold something. A line that does not speak of it leaves
 * it to its default; one that says nothing empties it, where it may be empty.
 */
function leftOf({ field, fallback }: FieldStep, value: null | undefined): Wire | undefined {
  const left = value === undefined || field.required ? fallback : null;
  return field.required ? left : (left ?? null);
}

function wrong(column: string, message: string): LineProblem {
  return { column, message };
}

/** What a line says in a column: null or undefined where it says nothing. */
export function saidIn(value: FileValue, { nothing }: FileMapping): FileValue {
  return value === nothing ? null : value;
}

function cellColumn({ name, column, type, owner }: Field): FilledColumn {
  return { name, column: column.value, type, owner };
}

/** The entity of a row that a file says the kind of, by its name or by what is stored to say it; null where there is none. */
export function kindNamed(model: Model, entity: Entity, said: string): Entity | null {
  const word = said.trim();
  const all = [entity, ...kindsBelow(model, entity)].filter(({ kinds }) => kinds?.abstract !== true);
  const alike = (one: string | undefined) => one?.toLowerCase() === word.toLowerCase();
  return (
    all.find(({ name }) => name === word) ??
    all.find(({ kinds }) => kinds?.mark === word) ??
    all.find(({ name, kinds }) => alike(name) || alike(kinds?.mark)) ??
    null
  );
}
