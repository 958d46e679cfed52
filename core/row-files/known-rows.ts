import type { AnswerRow } from '../load/index.js';
import { type Expression, entityOf, type Field, type Model, queryOf } from '../model/index.js';
import { TITLE } from '../plan/index.js';
import type { Wire } from '../values/index.js';
import { type CommandWork, type Doing, keyIn, kindIn, type RowAt } from '../write/index.js';
import { type FileValue, readField, readRowName } from './values.js';

/** What a file says of a row that is there: one value, or one for each field that it is told by. */
export type Said = readonly FileValue[];

/** By what a file tells rows of one entity: their keys, what they are shown as, or fields of theirs that together are of one row. */
export type ToldBy =
  | { readonly kind: 'key' }
  | { readonly kind: 'shown' }
  | { readonly kind: 'fields'; readonly fields: readonly string[] };

/** A row that was found, or why none is meant, in words that can stand behind the column's name. */
export type Found =
  | { readonly ok: true; readonly row: RowAt }
  | { readonly ok: false; readonly problem: string; readonly several?: boolean };

/** So many rows are remembered, so that a large file is not held by the rows that it names. */
const MOST_REMEMBERED = 100_000;
const NOWHERE = { start: 0, end: 0 };

/** The rows that lines of a file name, found many at once and remembered. */
export class KnownRows {
  private readonly known = new Map<string, Found>();

  constructor(
    private readonly doing: Doing,
    /** The entities whose rows can be meant; several only where they are told by their keys. */
    private readonly targets: readonly string[],
    private readonly by: ToldBy,
  ) {}

  /** Looks for all the rows that are named and not known yet. */
  *find(named: readonly Said[]): CommandWork<void> {
    if (this.known.size > MOST_REMEMBERED) this.known.clear();
    const open = new Map<string, Said>();
    for (const said of named) {
      const name = nameOf(said);
      if (!this.known.has(name)) open.set(name, said);
    }
    if (open.size === 0) return;
    switch (this.by.kind) {
      case 'key':
        yield* this.findByKeys(open);
        break;
      case 'shown':
        yield* this.findShown(open);
        break;
      case 'fields':
        yield* this.findByFields(open, this.by.fields);
    }
  }

  /** The row that is meant; it was looked for before. */
  of(said: Said): Found {
    return this.known.get(nameOf(said)) ?? { ok: false, problem: 'it was not looked for.' };
  }

  /** Forgets which rows were not there: some may have been put in since. */
  forget(): void {
    for (const [name, found] of this.known) if (!found.ok) this.known.delete(name);
  }

  private get target(): string {
    return this.targets[0] ?? '';
  }

  private *findByKeys(open: ReadonlyMap<string, Said>): CommandWork<void> {
    const { model } = this.doing;
    const byEntity = new Map<string, Map<string, { readonly name: string; readonly key: Wire }>>();
    for (const [name, [value]] of open) {
      const row = readRowName(model, this.targets, String(value));
      if (row === null) {
        const [only, ...more] = this.targets;
        const how =
          more.length > 0
            ? `write it as ${only}(1), with the entity before it.`
            : `write the key of a ${only}, or choose another way to name it.`;
        this.known.set(name, { ok: false, problem: `“${shortened(value)}” names no row: ${how}` });
        continue;
      }
      const own = byEntity.get(row.entity) ?? new Map<string, { readonly name: string; readonly key: Wire }>();
      own.set(name, { name, key: row.key });
      byEntity.set(row.entity, own);
    }
    for (const [entity, named] of byEntity) {
      const keys = new Map(Array.from(named.values(), ({ key }) => [String(key), key]));
      const rows = yield* this.doing.rowsByKey(entity, Array.from(keys.values()));
      for (const { name, key } of named.values()) {
        const row = rows.get(String(key));
        this.known.set(
          name,
          row === undefined
            ? { ok: false, problem: `there is no ${entity}(${String(key)}).` }
            : { ok: true, row: { entity: kindIn(entity, row), key } },
        );
      }
    }
  }

  private *findShown(open: ReadonlyMap<string, Said>): CommandWork<void> {
    const { shownAs } = entityOf(this.doing.model, this.target);
    const titles = Array.from(open.values(), ([value]) => String(value));
    const rows = yield* this.rowsAmong(shownAs.value, titles);
    const meant = new Map(Array.from(open, ([name, [value]]) => [name, String(value)]));
    this.note(open, meant, rows, (row) => String(row[TITLE]));
  }

  private *findByFields(open: ReadonlyMap<string, Said>, names: readonly string[]): CommandWork<void> {
    const fields = names.map((name) => fieldIn(this.doing.model, this.target, name));
    const [first] = fields;
    const firsts = new Map<string, Wire>();
    const meant = new Map<string, string>();
    for (const [name, said] of open) {
      const values: Wire[] = [];
      for (const [at, field] of fields.entries()) {
        const value = readField(field, said[at] ?? '');
        if (value.ok) values.push(value.value);
        else this.known.set(name, { ok: false, problem: value.problem });
      }
      if (values.length < fields.length) continue;
      firsts.set(JSON.stringify(values[0]), values[0] ?? null);
      meant.set(name, JSON.stringify(values));
    }
    if (first === undefined || meant.size === 0) return;
    const operand: Expression = {
      kind: 'field',
      hops: [],
      entity: this.target,
      field: first.name,
      type: first.type,
      span: NOWHERE,
    };
    const rows = yield* this.rowsAmong(operand, Array.from(firsts.values()));
    this.note(open, meant, rows, (row) => JSON.stringify(fields.map(({ name }) => row[name] ?? null)));
  }

  private *rowsAmong(operand: Expression, values: readonly Wire[]): CommandWork<readonly AnswerRow[]> {
    const items = values.map((value): Expression => ({ kind: 'value', value, type: operand.type, span: NOWHERE }));
    const among: Expression = { kind: 'in', operand, items, negated: false, type: { kind: 'boolean' }, span: NOWHERE };
    return yield* this.doing.ask(queryOf(this.target, { where: [among] }));
  }

  /**
   * Remembers the row that each name means.
   *
   * @param meant what the row of each name has to be known by
   * @param knownBy what a row is known by, in the same form
   */
  private note(
    open: ReadonlyMap<string, Said>,
    meant: ReadonlyMap<string, string>,
    rows: readonly AnswerRow[],
    knownBy: (row: AnswerRow) => string,
  ): void {
    const { model } = this.doing;
    const byName = new Map<string, AnswerRow[]>();
    for (const row of rows) {
      const alike = byName.get(knownBy(row));
      if (alike === undefined) byName.set(knownBy(row), [row]);
      else alike.push(row);
    }
    for (const [name, known] of meant) {
      const [row, ...more] = byName.get(known) ?? [];
      const told = (open.get(name) ?? []).map(shortened).join(', ');
      if (row === undefined) this.known.set(name, { ok: false, problem: `there is no ${this.target} “${told}”.` });
      else if (more.length > 0)
        this.known.set(name, {
          ok: false,
          several: true,
          problem: `${more.length + 1} rows of ${this.target} are “${told}”. Name it by its key, or by one more column.`,
        });
      else {
        const entity = kindIn(this.target, row);
        this.known.set(name, { ok: true, row: { entity, key: keyIn(model, entity, row) } });
      }
    }
  }
}

function fieldIn(model: Model, entity: string, name: string): Field {
  const field = entityOf(model, entity).fields.find((one) => one.name === name);
  if (field === undefined) throw new Error(`${entity} has no field ${name}`);
  return field;
}

function nameOf(said: Said): string {
  return said.length === 1 && typeof said[0] === 'string' ? said[0] : JSON.stringify(said);
}

function shortened(value: FileValue): string {
  const text = String(value);
  return text.length > 40 ? `${text.slice(0, 37)}…` : text;
}
