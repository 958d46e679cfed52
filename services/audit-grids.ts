import type { Witness } from '../core/audit/index.js';
import { browse, countsByRole, type Via, walkable } from '../core/browse/index.js';
import { entityOf, type Role } from '../core/model/index.js';
import type { QueryPlan } from '../core/plan/index.js';
import { SYSTEM } from '../core/walls/index.js';
import type { AuditedReads, ReadPlan, TriedWay } from './audit-reads.js';
import { witnessOf } from './audit-witnesses.js';
import { actorAt } from './working-as.js';

/** As many rows as a grid is asked for. */
const MOST_KEYS = 1000;

/** What a grid asks: which rows there are, those of a window by their keys and by their places, and how many each knows. */
export async function* gridWays(reads: AuditedReads, hidden: Witness): AsyncGenerator<TriedWay> {
  const { design } = reads.lookedAt;
  const { model } = design;
  const { name, key } = entityOf(model, hidden.entity);
  const plans = browse(model, { entity: name, where: [], orderBy: [], via: null });
  const own = await witnessOf(reads, name, 'read', 'within reach');
  const keys = [hidden.key, ...(own === null ? [] : [own.key])];
  const place = { keyType: key.type, keyName: key.name, rowLimit: MOST_KEYS, pairs: null };
  const byKeys: ReadPlan = async (engine, prepared, call) => {
    const read = await engine.run('page', { prepared, keys, ...place }, call);
    return read.ok ? { ok: true, value: JSON.parse(read.value.text) as unknown } : read;
  };
  const byPlaces: ReadPlan = async (engine, prepared, call) => {
    const read = await engine.run('page', { prepared, keys: null, ...place }, call);
    return read.ok ? { ok: true, value: JSON.parse(read.value.text) as unknown } : read;
  };
  const counted: ReadPlan = (engine, prepared, call) =>
    engine.run('counts', { prepared, keys, keyType: key.type, keyName: key.name }, call);
  const of = (what: string) => `the grid of ${name}: ${what}`;
  yield* tried(reads, 'grid', of('which rows there are'), plans.keys, inOrder);
  yield* tried(reads, 'grid', of(`the rows with the keys ${keys.map(String).join(', ')}`), plans.rows, byKeys);
  yield* tried(reads, 'grid', of('the rows by their places'), plans.placed(0, MOST_KEYS), byPlaces);
  yield* tried(reads, 'grid', of('how many each row knows'), countsByRole(model, name), counted);
}

/** What a grid asks that was walked to from a row over one of its roles. */
export async function* gridOverRole(reads: AuditedReads, hidden: Witness, role: Role, owner: Witness): AsyncGenerator<TriedWay> {
  const { model } = reads.lookedAt.design;
  if (walkable(model, role.entity, role.name, hidden.entity) === null) return;
  const via: Via = { entity: role.entity, key: owner.key, role: role.name };
  const { keys, pivotFields } = browse(model, { entity: hidden.entity, where: [], orderBy: [], via });
  const of = `the rows of ${hidden.entity} that ${role.entity} ${String(owner.key)} knows as ${role.name}`;
  yield* tried(reads, 'grid over a role', of, keys, inOrder);
  const pairs = pivotFields([hidden.key]);
  if (pairs !== null) yield* tried(reads, 'grid over a role', `the pairs of ${of}`, pairs);
}

const inOrder: ReadPlan = async (engine, prepared, call) => {
  const read = await engine.run('order', { prepared, most: MOST_KEYS }, call);
  return read.ok ? { ok: true, value: read.value.keys } : read;
};

async function* tried(
  reads: AuditedReads,
  way: string,
  text: string,
  plan: QueryPlan,
  read?: ReadPlan,
): AsyncGenerator<TriedWay> {
  const actor = await actorAt(reads.lookedAt, reads.named, null);
  if (actor.ok && actor.value !== SYSTEM) yield { way, text, tried: await reads.planned(plan, actor.value, read) };
}
