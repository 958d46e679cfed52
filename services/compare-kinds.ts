import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Design, readDesign } from '../core/design/index.js';
import { applied, KINDS_STORAGES, setKindsStorage } from '../core/edits/index.js';
import { readBy, writtenSql } from '../core/load/index.js';
import { type Entity, entityOf, hasTable, type KindsStorage, type Model } from '../core/model/index.js';
import { lookAtTable, planQuery } from '../core/plan/index.js';
import { lostRules, type Table } from '../core/schema/index.js';
import { type Engine, fileEngine } from '../engines/index.js';
import { preparedFor } from './looked-at.js';
import { makeDatabase } from './make-database.js';

/** The cost of a question where kinds are stored one way. */
export interface KindsAsk {
  readonly what: string;
  readonly joins: number;
  /** How many tables are read one after the other. */
  readonly tables: number;
  readonly statements: number;
  readonly rows: number;
  /** The middle of several runs. */
  readonly milliseconds: number;
  readonly sql: string;
}

/** One way to store the kinds of a base, measured on its rows. */
export interface KindsWay {
  readonly storage: KindsStorage['kind'];
  /** The text says so now. */
  readonly chosen: boolean;
  /** Why it could not be made; the rest is then empty. */
  readonly problem: string | null;
  /** What else would have to change. */
  readonly needs: string | null;
  readonly tables: number;
  readonly columns: number;
  /** Of all cells of these tables, from 0 to 1. */
  readonly emptyShare: number;
  readonly asks: readonly KindsAsk[];
  readonly bytes: number;
  readonly lost: readonly string[];
}

const LONGEST_READ = 20_000;
const RUNS = 5;

/**
 * The four ways to store the kinds of a base, each made in a scratch database with the rows of the text's samples and
 * asked the same: all rows, those of one kind, one row by its key.
 */
export async function compareKinds(design: Design, base: string): Promise<readonly KindsWay[]> {
  const folder = await mkdtemp(join(tmpdir(), 'family-tree-kinds-'));
  try {
    const ways: KindsWay[] = [];
    for (const storage of KINDS_STORAGES) ways.push(await measure(design, base, storage, join(folder, `${ways.length}.db`)));
    return ways;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

const NOTHING = { needs: null, tables: 0, columns: 0, emptyShare: 0, asks: [], bytes: 0, lost: [] };

async function measure(stated: Design, base: string, storage: KindsStorage['kind'], path: string): Promise<KindsWay> {
  const chosen = stated.model.entities.get(base)?.kinds?.storage.kind === storage;
  const edits = setKindsStorage(stated, base, storage);
  const design = readDesign(applied(stated.text, edits), fileEngine.dialect);
  const before = new Set(readDesign(stated.text, fileEngine.dialect).findings.map(({ message }) => message));
  // What is expected of rows by their keys says nothing of how they are stored.
  const expected = design.syntax.declarations.filter(({ kind }) => kind === 'expect').map(({ span }) => span);
  const wrong = design.findings.find(
    ({ weight, message, span }) =>
      weight === 'error' && !before.has(message) && !expected.some(({ start, end }) => span.start >= start && span.end <= end),
  );
  const refused = (problem: string): KindsWay => ({ storage, chosen, problem, ...NOTHING });
  if (wrong !== undefined) return refused(wrong.message);
  const made = await makeDatabase(design, path);
  if (!made.ok) return refused(made.problem.message);
  const engine = fileEngine.open({ path, mode: 'look', milliseconds: LONGEST_READ });
  try {
    const names = tablesOf(design.model, base);
    const tables = design.schema.tables.filter(({ name }) => names.includes(name.name));
    const cells = await cellsOf(engine, design, tables);
    return {
      storage,
      chosen,
      problem: null,
      needs: edits.length > 1 ? `${base}’s key becomes a uuid, since each table would number its own rows` : null,
      tables: tables.length,
      columns: tables.reduce((sum, { columns }) => sum + columns.length, 0),
      emptyShare: cells.all === 0 ? 0 : cells.empty / cells.all,
      asks: await asksOf(engine, design, base),
      bytes: await fileEngine.bytesOf(engine, tables),
      lost: lostRules(design.model, base),
    };
  } finally {
    await engine.close();
  }
}

/** The tables that a base and its kinds stand in. */
function tablesOf(model: Model, base: string): string[] {
  const all = (entity: Entity): Entity[] => [
    entity,
    ...(entity.kinds?.kinds ?? []).flatMap((kind) => all(entityOf(model, kind))),
  ];
  return all(entityOf(model, base))
    .filter(hasTable)
    .map(({ table }) => table.value.name);
}

async function cellsOf(
  engine: Engine,
  design: Design,
  tables: readonly Table[],
): Promise<{ readonly all: number; readonly empty: number }> {
  let all = 0;
  let empty = 0;
  for (const { name, columns } of tables) {
    const names = columns.map((column) => column.name);
    const ready = preparedFor(
      { design, madeHere: true, sampleKeys: {} },
      lookAtTable(design.model, name).plan(null, { kind: 'cells', columns: names }),
    );
    if (!ready.ok) continue;
    const read = await engine.run('stored rows', [{ prepared: ready.prepared, keys: null, rowLimit: 1 }]);
    const [cells = []] = read.ok ? read.value : [];
    const [rows = 0, missing = 0] = cells.map(([value]) => Number(value ?? 0));
    all += rows * columns.length;
    empty += missing;
  }
  return { all, empty };
}

async function asksOf(engine: Engine, design: Design, base: string): Promise<KindsAsk[]> {
  const { model } = design;
  const entity = entityOf(model, base);
  const kind = entity.kinds?.concrete[0]?.entity ?? base;
  const key = await someKey(engine, design, base);
  const asks: [string, string][] = [
    [`all ${base} rows`, `from ${base}`],
    [`${kind} rows alone`, `from ${kind}`],
    ...(key === null ? [] : [[`one ${base} by its key`, `from ${base}\nwhere ${key}\none`] as [string, string]]),
  ];
  const made: KindsAsk[] = [];
  for (const [what, text] of asks) {
    const ask = await askOf(engine, design, what, text);
    if (ask !== null) made.push(ask);
  }
  return made;
}

/** The condition that is true of one row in the middle alone, by its key, as the notation writes it. */
async function someKey(engine: Engine, design: Design, base: string): Promise<string | null> {
  const { query } = design.queryOf(`from ${base}\nlimit 50`);
  if (query === null) return null;
  const ready = preparedFor({ design, madeHere: true, sampleKeys: {} }, planQuery(design.model, query));
  if (!ready.ok) return null;
  const loaded = await engine.run('load', { prepared: ready.prepared, rowLimit: 50 });
  if (!loaded.ok) return null;
  const rows = JSON.parse(loaded.value.text) as Readonly<Record<string, unknown>>[];
  const row = rows[Math.floor(rows.length / 2)];
  const { fields } = entityOf(design.model, base).key;
  if (row === undefined || fields.some(({ name }) => row[name] === undefined || row[name] === null)) return null;
  return fields
    .map(({ name, type }) => {
      const value = row[name];
      const bare = typeof value === 'number' || type.kind === 'bigint';
      return `"${name}" = ${bare ? String(value) : `'${String(value).replaceAll("'", "''")}'`}`;
    })
    .join(' and ');
}

async function askOf(engine: Engine, design: Design, what: string, text: string): Promise<KindsAsk | null> {
  const { query } = design.queryOf(text);
  if (query === null) return null;
  const ready = preparedFor({ design, madeHere: true, sampleKeys: {} }, planQuery(design.model, query, { alone: true }));
  if (!ready.ok) return null;
  const { prepared } = ready;
  const times: number[] = [];
  let rows = 0;
  let statements = 0;
  for (let run = 0; run < RUNS; run++) {
    const loaded = await engine.run('load', { prepared, rowLimit: 100_000 });
    if (!loaded.ok) return null;
    times.push(loaded.value.log.reduce((sum, { milliseconds }) => sum + milliseconds, 0));
    rows = loaded.value.log[0]?.rows ?? 0;
    statements = loaded.value.log.reduce((sum, { times }) => sum + times, 0);
  }
  times.sort((a, b) => a - b);
  return {
    what,
    ...readBy(prepared),
    statements,
    rows,
    milliseconds: times[Math.floor(RUNS / 2)] ?? 0,
    sql: writtenSql(prepared, design.dialect),
  };
}
