import type { Design } from '../core/design/index.js';
import {
  type ActorName,
  type Command,
  type Entity,
  type Expression,
  entityOf,
  holdingsOf,
  queryOf,
} from '../core/model/index.js';
import { planQuery } from '../core/plan/index.js';
import type { Table } from '../core/schema/index.js';
import type { ValueType, Wire } from '../core/values/index.js';
import type { BrokenConstraint, CommandRefusal, Lacked, RefusedFor, WrittenCell } from '../core/write/index.js';
import type { Engine } from '../engines/index.js';
import { preparedFor } from './looked-at.js';
import { actorAt } from './working-as.js';

interface Refused {
  readonly refusal: CommandRefusal;
  readonly command: Command | null;
  readonly sampleKeys: Readonly<Record<string, Wire>>;
  readonly madeHere: boolean;
  /** On whose behalf: of rows that are hidden from them nothing is told. */
  readonly as: ActorName;
}

/** Why commands were refused, in the words of the design: its message, or the constraint, the value, and the row in the way. */
export async function refusedFor(design: Design, engine: Engine, refused: Refused): Promise<string> {
  const { why } = refused.refusal;
  const unique = why.kind === 'constraint' ? uniqueBroken(design, why) : null;
  const other =
    unique === null || why.kind !== 'constraint' ? null : await rowInTheWay(design, engine, refused, why, unique.columns);
  return wordsFor(design, why, { command: refused.command, other });
}

/** The same, without a look at the rows. @param other the row that stands in the way, in a sentence; null where it was not looked for */
export function wordsFor(
  design: Design,
  why: RefusedFor,
  { command = null, other = null }: { readonly command?: Command | null; readonly other?: string | null } = {},
): string {
  switch (why.kind) {
    case 'words':
      return why.message;
    case 'lacking':
      return lackingWords(why.of, why.lacked);
    case 'rule':
      return `${ended(why.message ?? `${why.key === null ? `A row of ${why.entity}` : `${why.entity}(${String(why.key)})`} breaks the rule ${why.rule}`)} What keeps it: ${why.entity}, rule ${why.rule}.`;
    case 'constraint':
      return constraintBroken(design, why, command, other);
  }
}

function lackingWords(of: string, lacked: Lacked): string {
  const place = `${of}.${lacked.name} is required`;
  switch (lacked.kind) {
    case 'role':
      return `${place}, and nothing fills it. Say which, as in “${lacked.name} ${lacked.target}(1)”.`;
    case 'field':
      return `${place}, and nothing fills it. Give it behind “with”, or state a default.`;
    case 'pair field':
      return `${place} of each pair, and nothing fills it. Give it behind “with”.`;
  }
}

type Broken = Extract<RefusedFor, { kind: 'constraint' }>;

function uniqueBroken({ schema }: Design, { table: name, broken }: Broken): UniqueOf | null {
  const table = schema.tables.find((one) => one.name.name === name);
  return table === undefined || broken.kind !== 'unique' ? null : uniqueOf(table, broken);
}

function constraintBroken(design: Design, broken: Broken, command: Command | null, other: string | null): string {
  const { kind, constraint, columns } = broken.broken;
  const unique = uniqueBroken(design, broken);
  const source = design.sources.find((one) => one.constraint === (unique?.name ?? constraint));
  const inTheWay = other === null ? '' : ` ${other}`;
  if (source?.message !== null && source?.message !== undefined)
    return `${ended(source.message)}${inTheWay} What keeps it: ${source.what}.`;
  if (unique !== null) {
    const what = source?.what ?? `the unique over ${unique.columns.join(', ')} of ${broken.table}`;
    return `Another row has this already.${inTheWay} What keeps it: ${what}.`;
  }
  if (kind === 'required') return `${broken.table}.${columns.join(', ')} is required, and would be empty.`;
  if (kind === 'key') return command?.kind === 'delete' ? stillPointedAt(design, command.rows.entity) : pointsNowhere(broken);
  return source === undefined ? `${ended(constraint)} What keeps it: the table ${broken.table}.` : `${source.what} is not kept.`;
}

/** A sentence with its full stop. */
function ended(text: string): string {
  return /[.!?]$/.test(text) ? text : `${text}.`;
}

/** The unique that an engine tells of: by its name, or by its columns. */
export function uniqueOf(table: Table, { constraint, columns }: BrokenConstraint): UniqueOf | null {
  const { primaryKey, uniques, indexes, name } = table;
  if (columns.length === 0 && (constraint === 'PRIMARY' || constraint === `${name.name}_pkey`)) return primaryKey;
  const all = [primaryKey, ...uniques, ...indexes.filter((index) => index.unique)];
  return all.find((one) => (columns.length === 0 ? one.name === constraint : one.columns.join() === columns.join())) ?? null;
}

interface UniqueOf {
  readonly name: string | null;
  readonly columns: readonly string[];
}

/** The relations whose rows may still point at one that is to be deleted. */
function stillPointedAt({ model }: Design, entity: string): string {
  const holding = Array.from(model.relations.values()).filter(
    (relation) =>
      holdingsOf(relation).keys.some(({ target }) => target === entity) &&
      ['restrict', 'no action'].includes(relation.onDelete.value),
  );
  const names = holding.map(
    (relation) => `${holdingsOf(relation).holder ?? relation.name} (${relation.name}, on delete ${relation.onDelete.value})`,
  );
  return `Other rows point at it, and keep it from being deleted${names.length === 0 ? '' : `: ${names.join(', ')}`}. Delete those first, or set them to another row.`;
}

function pointsNowhere({ cells }: Broken): string {
  const values = cells.map(({ name, value }) => `${name} ${JSON.stringify(value)}`);
  return `A row that it points at is not there${values.length === 0 ? '' : ` (${values.join(', ')})`}. Make that row first.`;
}

/** The row that has the same already, by what was written. */
async function rowInTheWay(
  design: Design,
  engine: Engine,
  { sampleKeys, madeHere, as }: Refused,
  { table, cells }: Broken,
  columns: readonly string[],
): Promise<string | null> {
  const entity = Array.from(design.model.entities.values()).find((one) => one.table.value.name === table);
  if (entity === undefined) return null;
  const where = columns.map((column) => conditionOn(entity, column, cells));
  if (where.includes(null)) return null;
  const query = queryOf(entity.name, { where: where.flatMap((one) => one ?? []) });
  const looked = { design, engine, sampleKeys, madeHere };
  const actor = await actorAt(looked, as, query);
  if (!actor.ok) return null;
  const ready = preparedFor({ ...looked, actor: actor.value }, planQuery(design.model, query, { titled: true }));
  if (!ready.ok) return null;
  const read = await engine.run('load', { prepared: ready.prepared, rowLimit: 1, explained: 'not' });
  if (!read.ok) return null;
  const [row] = JSON.parse(read.value.text) as readonly Readonly<Record<string, unknown>>[];
  const key = row?.[entityOf(design.model, entity.name).key.name];
  return row === undefined ? null : `It is ${entity.name}(${String(key)}).`;
}

const NOWHERE = { start: 0, end: 0 };

function conditionOn(entity: Entity, column: string, cells: readonly WrittenCell[]): Expression | null {
  const field = entity.fields.find((one) => one.column.value === column);
  const cell = cells.find(({ name }) => name === field?.name);
  if (field !== undefined && cell !== undefined) {
    const left: Expression = { kind: 'field', hops: [], entity: entity.name, field: field.name, type: field.type, span: NOWHERE };
    return equals(left, cell.value, field.type);
  }
  const role = entity.roles.find(({ way }) => way.kind === 'key' && way.columns.length === 1 && way.columns[0] === column);
  const held = cells.find(({ name }) => name === role?.name);
  if (role === undefined || held === undefined) return null;
  const type = { kind: 'row', entity: role.target } as const;
  return equals({ kind: 'role', hops: [role], type, span: NOWHERE }, held.value, type);
}

function equals(left: Expression, value: Wire, type: Expression['type'] | ValueType): Expression {
  const right: Expression = { kind: 'value', value, type, span: NOWHERE };
  return { kind: 'binary', operator: '=', left, right, type: { kind: 'boolean' }, span: NOWHERE };
}
