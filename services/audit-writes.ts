import { randomUUID } from 'node:crypto';
import { rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  type Attempt,
  attemptsOn,
  both,
  changeable,
  isNotTrue,
  keyRoles,
  namedRow,
  reachedWhere,
  type Witness,
} from '../core/audit/index.js';
import { type ActorName, type Expression, entityOf, lineage, type Role } from '../core/model/index.js';
import { guessUses } from '../core/row-files/index.js';
import type { Wire } from '../core/values/index.js';
import type { RowAt } from '../core/write/index.js';
import { type Engine, headOf } from '../engines/index.js';
import type { AuditedReads, Tried, TriedWay } from './audit-reads.js';
import { rolesTo } from './audit-ways.js';
import { isIt, witnessOf, witnessWhere } from './audit-witnesses.js';
import { type DoOutcome, doCommands } from './do-commands.js';
import { foretellDelete } from './foretell-delete.js';
import { putLinesIn } from './put-lines-in.js';

const NOWHERE = { start: 0, end: 0 };

/** The database to be written to: whatever is tried is taken back before anybody else sees it. */
export interface WriteTo {
  readonly engine: Engine;
  readonly schemas: readonly string[] | null;
}

/** Tries the commands by which a row of an entity could be written that is kept from somebody; each is taken back. */
export async function* writeWays(reads: AuditedReads, writeTo: WriteTo, entity: string): AsyncGenerator<TriedWay> {
  const { model } = reads.lookedAt.design;
  const known = entityOf(model, entity);
  if (known.given || known.kinds?.abstract === true) return;
  const own = await witnessOf(reads, entity, 'change', 'within reach');
  const reached = reachedWhere(reads.audited, entity, 'read');
  const unread = await witnessOf(reads, entity, 'read', 'out of reach');
  // One that is read, and yet kept from being changed.
  const unchanged = await witnessOf(reads, entity, 'change', 'out of reach', reached);
  const owners: { role: Role; owner: Witness }[] = [];
  for (const { role } of unread === null ? [] : rolesTo(model, entity)) {
    const owner = await witnessOf(reads, role.entity, 'change', 'within reach');
    if (owner !== null && owner.entity === role.entity && !entityOf(model, role.entity).given) owners.push({ role, owner });
  }
  for (const kept of [unread, unchanged]) {
    if (kept === null) continue;
    const isKeptOnWrite = await isKeptFromWriting(reads, kept);
    const { walls } = reads.audited;
    const site = { model, entity: known, walls, kept, isRead: kept === unchanged, isKeptOnWrite, own, owners };
    for (const attempt of attemptsOn(site))
      yield { way: attempt.way, text: attempt.commands, tried: await heldIn(reads, writeTo, attempt, kept) };
  }
  if (unread !== null) yield* importWays(reads, writeTo, unread, own);
  yield* deleteWays(reads, writeTo, entity);
}

/** Whether walls that keep rows from being written, and not from being read alone, keep a row. */
async function isKeptFromWriting(reads: AuditedReads, kept: Witness): Promise<boolean> {
  const { walls, isNobody } = reads.audited;
  const written = reachedWhere({ walls: walls.filter(({ writes }) => writes), isNobody }, kept.entity, 'change');
  const isRow = isKey(reads, kept);
  return written !== null && isRow !== null && (await witnessWhere(reads, kept.entity, [isRow, isNotTrue(written)])) !== null;
}

const SYSTEM: ActorName = { kind: 'system' };

/** Carries commands out as somebody, and takes them back. */
async function done(reads: AuditedReads, { engine, schemas }: WriteTo, text: string, as = reads.named): Promise<DoOutcome> {
  const { design, sampleKeys, madeHere } = reads.lookedAt;
  const { signal } = reads.call;
  return doCommands(design, engine, {
    text,
    sampleKeys,
    madeHere,
    now: reads.now,
    seed: 'audit',
    as,
    schemas,
    rehearse: true,
    ...(signal === undefined ? {} : { signal }),
  });
}

/** Carries out commands, and tells whether they came to what they have to. */
async function heldIn(reads: AuditedReads, writeTo: WriteTo, { commands, holds }: Attempt, kept: Witness): Promise<Tried> {
  const outcome = await done(reads, writeTo, commands);
  if (!outcome.ok && outcome.findings.some(({ weight }) => weight === 'error')) return untried(outcome);
  switch (holds.kind) {
    case 'refused':
      return outcome.ok && changes(outcome) > 0 ? wrote(outcome) : await heldAlone(reads, writeTo, commands);
    case 'untouched':
      return outcome.ok && touches(outcome, kept.key) ? wrote(outcome) : HELD;
    case 'as missing': {
      const other = await done(reads, writeTo, holds.instead);
      if (!other.ok && other.findings.some(({ weight }) => weight === 'error')) return untried(other);
      if (outcome.ok && changes(outcome) > 0 && !(other.ok && changes(other) > 0)) return wrote(outcome);
      const [told, expected] = [wordsOf(outcome), wordsOf(other)];
      if (told === expected) return HELD;
      return { kind: 'other', difference: { path: 'what is said', told: told, expected }, statement: statementOf(outcome) };
    }
  }
}

/** That commands were refused says something of walls where the system could have done them. */
async function heldAlone(reads: AuditedReads, writeTo: WriteTo, commands: string): Promise<Tried> {
  const outcome = await done(reads, writeTo, commands, SYSTEM);
  if (outcome.ok) return HELD;
  const why = [...outcome.findings.map(({ message }) => message), ...outcome.problems].join(' ');
  return { kind: 'not tried', why: `Not even the system could do it. ${why}` };
}

const HELD: Tried = { kind: 'held' };

function untried({ findings }: DoOutcome): Tried {
  return { kind: 'not tried', why: findings.map(({ message }) => message).join(' ') };
}

function wrote(outcome: DoOutcome): Tried {
  const rows = outcome.ok ? outcome.carried.lines.flatMap((line) => line.rows) : [];
  const told = rows.map(
    ({ change, entity, key, link }) =>
      `${entity}(${String(key)}) ${change}${link === null ? '' : ` ${link.role} ${String(link.key)}`}`,
  );
  return { kind: 'other', difference: { path: 'what was written', told, expected: [] }, statement: statementOf(outcome) };
}

function statementOf(outcome: DoOutcome): string {
  const log = outcome.ok ? outcome.carried.log : outcome.log;
  return log.filter(({ kind }) => kind === 'write').at(-1)?.plain ?? log.at(-1)?.plain ?? '';
}

const NOTHING: ReadonlySet<string> = new Set(['found', 'already linked', 'not linked']);

function changes(outcome: DoOutcome): number {
  return outcome.ok ? outcome.carried.lines.flatMap(({ rows }) => rows).filter(({ change }) => !NOTHING.has(change)).length : 0;
}

/** Whether commands tell of a row: that it was found, or that they changed it. */
function touches(outcome: DoOutcome, key: Wire): boolean {
  return (
    outcome.ok &&
    outcome.carried.lines.some(({ rows }) => rows.some((row) => String(row.key) === String(key) && row.change !== 'created'))
  );
}

/** What is said of commands, without the key that was asked for. */
function wordsOf(outcome: DoOutcome): string {
  if (outcome.ok) return outcome.carried.lines.flatMap(({ rows }) => rows.map(({ change }) => change)).join(', ');
  return outcome.problems.join(' ').replace(/'[^']*'|“[^”]*”|\([^()]*\)|[\w-]*\d[\w-]*|~~none/g, '…');
}

/** Lines of a file that change a row, or point at one, which is out of reach. */
async function* importWays(reads: AuditedReads, writeTo: WriteTo, kept: Witness, own: Witness | null): AsyncGenerator<TriedWay> {
  const { model } = reads.lookedAt.design;
  const { key } = entityOf(model, kept.entity);
  const field = changeable(entityOf(model, kept.entity)).find(
    ({ name, hidden }) => !hidden && (kept.values.get(name) ?? null) !== null,
  );
  if (field === undefined || own === null) return;
  const head = [...key.fields.map(({ name }) => name), field.name];
  const line = head.map((name) => String(kept.values.get(name) ?? ''));
  const content = [head, line].map((cells) => cells.map((cell) => `"${cell.replaceAll('"', '""')}"`).join(',')).join('\n');
  yield {
    way: 'import',
    text: `${content}\n-- lines for ${kept.entity} that change the rows which are there`,
    tried: await imported(reads, writeTo, kept.entity, content),
  };
}

async function imported(reads: AuditedReads, { engine }: WriteTo, entity: string, content: string): Promise<Tried> {
  const { design, sampleKeys, madeHere } = reads.lookedAt;
  const path = join(tmpdir(), `family-tree-audit-${randomUUID()}.csv`);
  try {
    await writeFile(path, `${content}\n`);
    const head = await headOf(path, 'csv', 2);
    const uses = guessUses(
      design.model,
      entity,
      head.columns,
      head.lines.map(({ values }) => values),
    );
    const columns = head.columns.map((name, at) => ({ name, use: uses[at] ?? ({ kind: 'left out' } as const) }));
    const outcome = await putLinesIn(design, engine, {
      mapping: { entity, columns, nothing: '', there: 'update', match: [] },
      file: { ...head, path },
      sampleKeys,
      madeHere,
      now: reads.now,
      rehearse: true,
      goodOnes: true,
      as: reads.named,
    });
    if (!outcome.ok) return { kind: 'not tried', why: outcome.problems.join(' ') };
    const { updated, skipped } = outcome.report;
    if (updated + skipped === 0) return HELD;
    return {
      kind: 'other',
      difference: { path: 'the lines put in', told: { updated, skipped }, expected: { updated: 0, skipped: 0 } },
      statement: '',
    };
  } finally {
    await rm(path, { force: true });
  }
}

/** Deletes of rows that may be changed, by whose rules rows that may not would go along or be emptied. */
async function* deleteWays(reads: AuditedReads, writeTo: WriteTo, entity: string): AsyncGenerator<TriedWay> {
  const { model } = reads.lookedAt.design;
  const kept = reachedWhere(reads.audited, entity, 'change');
  if (kept === null) return;
  for (const role of keyRoles(entityOf(model, entity))) {
    const rule = model.relations.get(role.relation)?.onDelete.value;
    if (rule !== 'cascade' && rule !== 'set null') continue;
    if (entityOf(model, role.target).given) continue;
    const pointing = await pointingAt(reads, entity, role, isNotTrue(kept));
    if (pointing === null) continue;
    if (!(await reaches(reads, writeTo, namedRow(model, pointing), entity))) continue;
    const commands = `delete ${namedRow(model, pointing)}`;
    const outcome = await done(reads, writeTo, commands);
    const tried = outcome.ok ? wrote(outcome) : await heldAlone(reads, writeTo, commands);
    yield { way: 'delete that reaches behind a wall', text: commands, tried };
  }
}

/** Whether the database itself would take rows of an entity along with another, or empty them: not every rule of a text is kept. */
async function reaches(reads: AuditedReads, { engine, schemas }: WriteTo, rows: string, entity: string): Promise<boolean> {
  const { design, sampleKeys } = reads.lookedAt;
  const told = await foretellDelete(design, engine, { rows, sampleKeys, now: reads.now, schemas, looks: 0 });
  const names = new Set(lineage(design.model, entity).map(({ name }) => name));
  return told.ok && told.impact.groups.some(({ of, effect }) => names.has(of) && TOUCHING.has(effect));
}

const TOUCHING: ReadonlySet<string> = new Set(['goes along', 'is emptied', 'gets its default']);

/** A row that may be changed, at which a row points that may not be. */
async function pointingAt(reads: AuditedReads, entity: string, role: Role, condition: Expression): Promise<RowAt | null> {
  const changed = reachedWhere(reads.audited, role.target, 'change');
  const isThere: Expression = {
    kind: 'is null',
    operand: { kind: 'role', hops: [role], type: { kind: 'row', entity: role.target }, span: NOWHERE },
    negated: true,
    type: { kind: 'boolean' },
    span: NOWHERE,
  };
  // One after the other: of the rows that point, the first whose other row may be changed.
  const child = await witnessOf(reads, entity, 'change', 'any', both(condition, isThere));
  const target = child?.behind.get(role.name) ?? null;
  if (target === null || changed === null) return target;
  const own = await witnessOf(reads, role.target, 'change', 'within reach', isKey(reads, target));
  return own === null ? null : target;
}

function isKey({ lookedAt }: AuditedReads, { entity, key }: { readonly entity: string; readonly key: Wire }): Expression | null {
  const { row } = lookedAt.design.rowOf(namedRow(lookedAt.design.model, { entity, key }));
  if (row === null) return null;
  return isIt(entity, row);
}
