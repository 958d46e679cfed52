import { expect } from 'vitest';
import type { Design } from '../core/design/index.js';
import { type ActorName, KIND_NAME, type Load, lineage } from '../core/model/index.js';
import { answerNaively, Beyond, linesNaively, type OracleAnswer, type OracleLine, type World } from '../core/oracle/index.js';
import { makeSamples } from '../core/samples/index.js';
import type { Engine } from '../engines/index.js';
import { runQuery } from '../services/index.js';
import { everything } from './agreement.js';
import { mixedWays, multiplies } from './shown-queries.js';

type Row = Readonly<Record<string, unknown>>;

/** Whoever asks, as the program is told it and as the naive evaluator is. */
export interface WorkingAs {
  readonly named: ActorName;
  readonly seen: NonNullable<World['actor']>;
}

const OTHER_WAYS = ['join', 'json', 'row', 'mixed'] as const;

const NOW = '2031-04-12T09:00:00.000000Z';

/** A row of the answer is what the oracle says of it, with the rows that were loaded with it, in their order. */
export function expectAlike(
  design: Design,
  row: Row,
  told: OracleAnswer,
  entity: string,
  loads: readonly Load[],
  text: string,
): void {
  const kind = String(row[KIND_NAME] ?? entity);
  expect(kind, text).toBe(told.kind);
  for (const [name, value] of Object.entries(told.fields)) expect(row[name], `${name} in ${text}`).toEqual(value);
  for (const [name, value] of Object.entries(told.derived)) {
    // Doubles agree to twelve digits.
    const rounded = (one: unknown) => (typeof one === 'number' ? Number(one.toPrecision(12)) : one);
    expect(rounded(row[name]), `${name} in ${text}`).toEqual(rounded(value));
  }
  for (const [name, kin] of Object.entries(told.loads)) {
    if (told.hidden.includes(name)) {
      expect(row[name], `${name} in ${text}`).toEqual({ hidden: true });
      continue;
    }
    const rows = rowsOf(row[name]);
    expect(rows.length, `${name} in ${text}`).toBe(kin.length);
    kin.forEach((one, index) => {
      const line = lineage(design.model, one.kind).map((entity) => entity.name);
      const load = loads.find(({ role }) => role.name === name && line.includes(role.target));
      if (load === undefined) throw new Error(`${text} loads no ${one.kind} as ${name}`);
      expectAlike(design, rows[index] ?? {}, one, load.role.target, load.loads, text);
    });
  }
}

/** Doubles agree to twelve digits. */
function inTwelveDigits(line: Row): Row {
  const entries = Object.entries(line);
  return Object.fromEntries(
    entries.map(([name, value]) => [name, typeof value === 'number' ? Number(value.toPrecision(12)) : value]),
  );
}

function rowsOf(loaded: unknown): readonly Row[] {
  return (Array.isArray(loaded) ? loaded : loaded == null ? [] : [loaded]) as readonly Row[];
}

/**
 * Asks both, and gives how many answers were compared.
 *
 * @param each only one query in so many is asked, others for other models
 * @param as whoever asks; null for the system
 */
export async function compareAll(design: Design, engine: Engine, each = 1, as: WorkingAs | null = null): Promise<number> {
  const samples = makeSamples(design.model, design.model.clock ?? NOW);
  const { rows: all, pairs } = samples;
  const world = { rows: all, pairs, now: design.model.clock ?? NOW, ...(as === null ? {} : { actor: as.seen }) };
  let compared = 0;
  for (const [at, text] of everything({ design }).entries()) {
    if (at % each !== design.text.length % each) continue;
    const { query } = design.queryOf(text);
    if (query === null) throw new Error(`${text} is no query`);
    let told: readonly OracleAnswer[] = [];
    let lines: readonly OracleLine[] = [];
    try {
      if (query.show === null) told = answerNaively(design.model, world, query);
      else lines = linesNaively(design.model, world, query);
    } catch (error) {
      if (error instanceof Beyond) continue;
      throw error;
    }
    const request = {
      query: { kind: 'text' as const, text, parameters: [] },
      parameters: {},
      sampleKeys: {},
      madeHere: true,
      ...(as === null ? {} : { as: as.named }),
    };
    const outcome = await runQuery(design, engine, { ...request, rowLimit: 10_000 });
    if (!outcome.ok)
      throw new Error(`${text}\n${[...outcome.findings.map(({ message }) => message), ...outcome.problems].join('\n')}`);
    for (const way of query.loads.length === 0 ? [] : OTHER_WAYS) {
      if (way === 'join' && multiplies(text)) continue;
      const asked =
        way === 'mixed'
          ? { ...request, query: { ...request.query, text: mixedWays(text, at) }, rowLimit: 5_000 }
          : { ...request, rowLimit: 5_000, way };
      const other = await runQuery(design, engine, asked);
      if (!other.ok) throw new Error(`by ${way}: ${text}\n${other.problems.join('\n')}`);
      // Many to-many roles joined to one row multiply beyond what is let through.
      if (other.answer.cuts.length > 0) continue;
      expect(JSON.parse(other.answer.text), `by ${way}: ${text}`).toEqual(JSON.parse(outcome.answer.text));
      compared += 1;
    }
    const answer: unknown = JSON.parse(outcome.answer.text);
    compared += 1;
    if (query.cardinality === 'count') {
      expect(answer, text).toEqual([{ count: told.length }]);
      continue;
    }
    if (query.cardinality === 'exists') {
      expect(answer, text).toEqual([{ exists: told.length > 0 }]);
      continue;
    }
    const rows = answer as readonly Row[];
    if (query.show !== null) {
      expect(rows.map(inTwelveDigits), text).toEqual(lines.map(inTwelveDigits));
      continue;
    }
    expect(rows.length, text).toBe(told.length);
    told.forEach((one, index) => {
      expectAlike(design, rows[index] ?? {}, one, query.entity, query.loads, text);
    });
  }
  return compared;
}
