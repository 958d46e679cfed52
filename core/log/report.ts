import type { Design } from '../design/index.js';
import type { Dialect } from '../dialects/index.js';
import { type Entity, isPivot, type Model, type Role } from '../model/index.js';
import type { Table } from '../schema/index.js';
import type { LoggedStatement } from './lines.js';
import { shapeOf } from './shape.js';
import { type Asked, askedBy } from './tables.js';

/** Statements of one shape. */
export interface LoggedShape {
  readonly shape: string;
  readonly count: number;
  /** All of them together; null where the log has no times. */
  readonly milliseconds: number | null;
  /** How often it stands several times in a row, and how many do so at most. */
  readonly runs: number;
  readonly longestRun: number;
  /** The load that would bring it once for all rows; null where no relation of the design tells one. */
  readonly load: { readonly entity: string; readonly role: string; readonly relation: string; readonly line: string } | null;
  /** Columns that rows are sought by, where no index begins with any of them; null where one does, or none are told. */
  readonly unindexed: { readonly entity: string; readonly columns: readonly string[]; readonly line: string } | null;
}

export interface LogReport {
  readonly statements: number;
  readonly shapes: number;
  /** What was asked once for each row, the most often first. */
  readonly onceForEachRow: readonly LoggedShape[];
  /** The ten that cost most: by their time, or, where the log has none, by how often they were asked. */
  readonly costliest: readonly LoggedShape[];
  readonly withoutIndex: readonly LoggedShape[];
}

interface Gathered {
  readonly shape: string;
  count: number;
  milliseconds: number | null;
  runs: number;
  longestRun: number;
  /** Before the first of a run: the shapes that stood there, and how often. */
  readonly behind: Map<string, number>;
}

/** Shapes beyond so many are counted, and not told apart. */
const MOST_SHAPES = 20_000;
/** So many of one shape in a row are no chance. */
const FEWEST_IN_A_ROW = 3;
const COSTLIEST = 10;

/** Reads the statements of a log one by one, and tells at the end what they say of a design. Nothing of it is run. */
export class LogReading {
  private readonly shapes = new Map<string, Gathered>();
  private statements = 0;
  private last: Gathered | null = null;
  private inARow = 0;
  /** What stood before the row of equal shapes. */
  private before = '';

  /** @param doubleQuoted what the database that was asked takes it for where it stands between double quotes */
  constructor(private readonly doubleQuoted: Dialect['doubleQuoted'] = 'name') {}

  take({ sql, milliseconds }: LoggedStatement): void {
    this.statements += 1;
    const shape = shapeOf(sql, this.doubleQuoted);
    const known = this.shapes.get(shape);
    if (known === undefined && this.shapes.size >= MOST_SHAPES) return;
    const gathered = known ?? { shape, count: 0, milliseconds: null, runs: 0, longestRun: 1, behind: new Map<string, number>() };
    if (known === undefined) this.shapes.set(shape, gathered);
    gathered.count += 1;
    if (milliseconds !== null) gathered.milliseconds = (gathered.milliseconds ?? 0) + milliseconds;
    if (this.last === gathered) this.inARow += 1;
    else {
      this.before = this.last?.shape ?? '';
      this.inARow = 1;
    }
    if (this.inARow === FEWEST_IN_A_ROW) {
      gathered.runs += 1;
      gathered.behind.set(this.before, (gathered.behind.get(this.before) ?? 0) + 1);
    }
    gathered.longestRun = Math.max(gathered.longestRun, this.inARow);
    this.last = gathered;
  }

  report(design: Design): LogReport {
    const all = Array.from(this.shapes.values());
    const timed = all.some(({ milliseconds }) => milliseconds !== null);
    const told = new Map(all.map((one) => [one, shapeTold(design, one)]));
    const tell = (shapes: readonly Gathered[]) => shapes.flatMap((one) => told.get(one) ?? []);
    const cost = ({ milliseconds, count }: Gathered) => (timed ? (milliseconds ?? 0) : count);
    return {
      statements: this.statements,
      shapes: all.length,
      onceForEachRow: tell(all.filter(({ runs }) => runs > 0))
        .filter(({ load }) => load !== null)
        .sort((a, b) => b.count - a.count),
      costliest: tell([...all].sort((a, b) => cost(b) - cost(a)).slice(0, COSTLIEST)),
      withoutIndex: tell(all)
        .filter(({ unindexed }) => unindexed !== null)
        .sort((a, b) => b.count - a.count),
    };
  }
}

function shapeTold({ model, schema }: Design, gathered: Gathered): LoggedShape {
  const { shape, count, milliseconds, runs, longestRun, behind } = gathered;
  const asked = askedBy(shape);
  const [owner = ''] = Array.from(behind).sort(([, a], [, b]) => b - a)[0] ?? [];
  const common = { shape, count, milliseconds, runs, longestRun };
  if (asked === null) return { ...common, load: null, unindexed: null };
  return {
    ...common,
    load: loadFor(model, asked, askedBy(owner)?.from ?? null),
    unindexed: unindexedIn(model, schema.tables, asked),
  };
}

/** The load that brings what is asked once for each row of the table that was read before. */
function loadFor(model: Model, asked: Asked, ownerTable: string | null): LoggedShape['load'] {
  const [sought] = asked.equal;
  if (sought === undefined) return null;
  const entities = Array.from(model.entities.values());
  const owners = entities.filter((entity) => tableOf(entity) === ownerTable);
  const known = (roles: readonly { readonly entity: Entity; readonly role: Role }[]) => {
    const [first] = roles;
    if (first === undefined) return null;
    const { entity, role } = first;
    return { entity: entity.name, role: role.name, relation: role.relation, line: `load ${role.name}` };
  };
  const rolesOf = (some: readonly Entity[]) => some.flatMap((entity) => entity.roles.map((role) => ({ entity, role })));
  // By a key that the rows themselves, or the pairs in between, hold: the column tells the relation.
  const held = rolesOf(entities).filter(({ role }) => leadsBy(model, role, asked, sought));
  if (held.length > 0) return known([...held.filter(({ entity }) => owners.includes(entity)), ...held]);
  // By their own key: the rows that were read before tell from where.
  return known(
    rolesOf(owners).filter(({ role }) => {
      const target = model.entities.get(role.target);
      return role.way.kind === 'key' && target !== undefined && tableOf(target) === asked.from && isKey(target, sought.column);
    }),
  );
}

function leadsBy(model: Model, { way, target, relation }: Role, { from }: Asked, sought: Asked['equal'][number]): boolean {
  const entity = model.entities.get(target);
  if (entity === undefined || tableOf(entity) !== from) return false;
  const holds = (columns: readonly string[]) => columns.some((column) => column.toLowerCase() === sought.column);
  if (way.kind === 'child') return sought.table === from && holds(way.columns);
  const pivot = model.relations.get(relation);
  return (
    way.kind === 'pivot' &&
    pivot !== undefined &&
    isPivot(pivot) &&
    sought.table === way.table.name.toLowerCase() &&
    holds(way.near)
  );
}

function isKey({ key }: Entity, column: string): boolean {
  return key.columns.length === 1 && key.columns[0]?.toLowerCase() === column;
}

function tableOf({ table }: Entity): string {
  return table.value.name.toLowerCase();
}

/** The columns that rows of one table are sought by, where no key and no index begins with any of them. */
function unindexedIn(model: Model, tables: readonly Table[], { from, tables: read, equal }: Asked): LoggedShape['unindexed'] {
  const table = tables.find(({ name }) => name.name.toLowerCase() === from);
  const columns = equal.filter((one) => one.table === from).map(({ column }) => column);
  if (table === undefined || read.size !== 1 || columns.length === 0) return null;
  const known = columns.filter((column) => table.columns.some(({ name }) => name.toLowerCase() === column));
  if (known.length < columns.length) return null;
  const first = [
    table.primaryKey.columns,
    ...table.uniques.map((one) => one.columns),
    ...table.indexes.map((one) => one.columns),
  ].map((list) => list[0]?.toLowerCase() ?? '');
  if (columns.some((column) => first.includes(column))) return null;
  const entity = Array.from(model.entities.values()).find((one) => tableOf(one) === from);
  const names = columns.map(
    (column) => entity?.fields.find((field) => field.column.value.toLowerCase() === column)?.name ?? column,
  );
  return { entity: entity?.name ?? from, columns, line: `index (${names.join(', ')})` };
}
