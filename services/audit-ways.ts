import {
  both,
  isNotTrue,
  namedRow,
  type RoleSite,
  type RowSite,
  reachedWhere,
  WAYS_OF_ROLES,
  WAYS_OF_ROWS,
  type Witness,
} from '../core/audit/index.js';
import { choicesOf } from '../core/browse/index.js';
import {
  type Entity,
  type Expression,
  entityOf,
  type Hop,
  type Model,
  pivotOf,
  type Query,
  type Role,
} from '../core/model/index.js';
import { SYSTEM } from '../core/walls/index.js';
import { gridOverRole, gridWays } from './audit-grids.js';
import type { AuditedReads, Tried, TriedWay } from './audit-reads.js';
import { anyBehind, hiddenRows, isIt, witnessOf, witnessWhere } from './audit-witnesses.js';
import type { GivenParameters } from './found-query.js';
import { actorAt } from './working-as.js';

const NOWHERE = { start: 0, end: 0 };
const BOOLEAN = { kind: 'boolean' } as const;

/** Tries the ways to rows of an entity of which some are out of reach, and to those rows over every role that leads there. */
export async function* readWays(reads: AuditedReads, entity: string): AsyncGenerator<TriedWay> {
  for (const hidden of await hiddenRows(reads, entity)) yield* waysTo(reads, entity, hidden);
}

async function* waysTo(reads: AuditedReads, entity: string, hidden: Witness): AsyncGenerator<TriedWay> {
  const { model } = reads.lookedAt.design;
  const site = { model, entity: entityOf(model, entity), hidden };
  for (const { name, queries } of WAYS_OF_ROWS) for (const text of queries(site)) yield await asText(reads, name, text);
  yield* choiceWays(reads, hidden);
  yield* gridWays(reads, hidden);
  yield* pairWays(reads, site);
  for (const { role, branch, hops } of rolesTo(model, entity)) {
    const owner = await ownerOf(reads, role, hops);
    if (owner === null) continue;
    const ofRole: RoleSite = { ...site, role, branch, owner };
    for (const { name, queries } of WAYS_OF_ROLES) for (const text of queries(ofRole)) yield await asText(reads, name, text);
    yield* gridOverRole(reads, hidden, role, owner);
  }
}

/** The ways over pairs that are rows of the entity: both their ends may be within reach, and a pair is not. */
async function* pairWays(reads: AuditedReads, site: RowSite): AsyncGenerator<TriedWay> {
  const { model, entity } = site;
  for (const { role, end } of rolesOver(model, entity)) {
    const reached = reachedWhere(reads.audited, role.entity, 'read');
    const leads = anyBehind([{ role: end, filter: reached ?? isThere(role.entity) }]);
    const pair = await witnessOf(reads, entity.name, 'read', 'out of reach', leads);
    const key = pair?.behind.get(end.name);
    const { row } = key === undefined ? { row: null } : reads.lookedAt.design.rowOf(namedRow(model, key));
    const owner = row === null ? null : await witnessWhere(reads, role.entity, [isIt(role.entity, row)]);
    if (pair === null || owner === null) continue;
    const hidden = (await witnessOf(reads, role.target, 'read', 'any')) ?? pair;
    const ofRole: RoleSite = { model, entity: entityOf(model, role.target), hidden, role, branch: false, owner };
    for (const { name, queries } of WAYS_OF_ROLES) for (const text of queries(ofRole)) yield await asText(reads, name, text);
  }
}

/** The roles that lead over pairs which are rows of an entity, each with the role of the pair's row back to the owner. */
function rolesOver(model: Model, entity: Entity): readonly { readonly role: Role; readonly end: Role }[] {
  return Array.from(model.entities.values()).flatMap(({ roles }) =>
    roles.flatMap((role) => {
      const { way } = role;
      if (way.kind !== 'pivot' || pivotOf(model, role.relation).entity !== entity.name) return [];
      const end = entity.roles.find((one) => one.way.kind === 'key' && one.way.columns.join() === way.near.join());
      return end === undefined ? [] : [{ role, end }];
    }),
  );
}

function isThere(entity: string): Expression {
  const operand: Expression = { kind: 'role', hops: [], type: { kind: 'row', entity }, span: NOWHERE };
  return { kind: 'is null', operand, negated: true, type: BOOLEAN, span: NOWHERE };
}

async function asText(reads: AuditedReads, way: string, text: string): Promise<TriedWay> {
  return { way, text, tried: await reads.asked({ kind: 'text', text, parameters: [] }) };
}

/** The rows that a drop-down offers, and those that it finds for what is typed. */
async function* choiceWays(reads: AuditedReads, hidden: Witness): AsyncGenerator<TriedWay> {
  const { design } = reads.lookedAt;
  const actor = await actorAt(reads.lookedAt, reads.named, null);
  if (!actor.ok || actor.value === SYSTEM) return;
  const key = String(hidden.key);
  for (const sought of ['', key, ...shownOf(design.model, hidden)]) {
    const plan = choicesOf(design.model, hidden.entity, 50, sought);
    const text =
      sought === ''
        ? `the rows of ${hidden.entity} to choose from`
        : `the rows of ${hidden.entity} to choose from, with “${sought}” typed`;
    yield { way: 'drop-down', text, tried: await reads.planned(plan, actor.value) };
  }
}

/** What a row is shown as, where that is a field of it. */
function shownOf(model: Model, { entity, values }: Witness): readonly string[] {
  const { value } = entityOf(model, entity).shownAs;
  const shown = value.kind === 'field' ? values.get(value.field) : null;
  return typeof shown === 'string' && shown.trim() !== '' ? [shown] : [];
}

/** Tries a saved query: with each parameter filled by what leads to rows out of reach, where there is such a thing. */
export async function savedWay(reads: AuditedReads, query: Query): Promise<TriedWay> {
  const name = query.name ?? '';
  const given = await parametersFor(reads, query);
  return { way: 'saved query', text: name, tried: await reads.asked({ kind: 'saved', name }, given) };
}

/** Values for the parameters of a query: a row that is out of reach, or what stands in one where the query compares it. */
async function parametersFor(reads: AuditedReads, query: Query): Promise<GivenParameters> {
  const { model } = reads.lookedAt.design;
  const given: Record<string, string | null> = {};
  const inRow = await witnessOf(reads, query.entity, 'read', 'out of reach');
  for (const { name, type, optional, many } of query.parameters) {
    if (type.kind === 'row') {
      const row =
        (await witnessOf(reads, type.entity, 'read', 'out of reach')) ?? (await witnessOf(reads, type.entity, 'read', 'any'));
      given[name] = row === null ? null : String(row.key);
      continue;
    }
    const like = entityOf(model, query.entity).fields.find((field) => field.type.kind === type.kind);
    const row = inRow ?? (await witnessOf(reads, query.entity, 'read', 'any'));
    const value = like === undefined ? null : (row?.values.get(like.name) ?? null);
    const known =
      value === null
        ? exampleOf(type.kind, type.kind === 'choice' ? model.choices.get(type.choice)?.values[0]?.value : undefined)
        : String(value);
    given[name] = optional && value === null ? null : many ? JSON.stringify([known]) : known;
  }
  return given;
}

function exampleOf(kind: string, first: string | undefined): string {
  switch (kind) {
    case 'integer':
    case 'bigint':
    case 'decimal':
    case 'real':
      return '1';
    case 'boolean':
      return 'true';
    case 'date':
      return '2031-01-01';
    case 'timestamp':
      return '2031-01-01 00:00';
    default:
      return first ?? 'a';
  }
}

/** A role by which rows of an entity are come by, and the hops to them: several of a path, which may end elsewhere. */
interface RoleTo {
  readonly role: Role;
  readonly branch: boolean;
  readonly hops: readonly Hop[];
}

/** All roles that lead to rows of an entity, or past them. */
export function rolesTo(model: Model, entity: string): readonly RoleTo[] {
  return Array.from(model.entities.values()).flatMap(({ roles, polymorphic, paths }): RoleTo[] => [
    ...roles.filter(({ target }) => target === entity).map((role) => ({ role, branch: false, hops: [{ role, filter: null }] })),
    ...polymorphic.flatMap(({ branches }) =>
      branches.filter(({ target }) => target === entity).map((role) => ({ role, branch: true, hops: [{ role, filter: null }] })),
    ),
    ...paths.flatMap((role): RoleTo[] => {
      const hops = role.way.kind === 'path' ? role.way.hops : [];
      const last = hops.findIndex((hop) => hop.role.target === entity);
      return last < 0 ? [] : [{ role, branch: false, hops: hops.slice(0, last + 1) }];
    }),
  ]);
}

/** A row within reach from which a role leads to one that is not; else any from which it does. */
async function ownerOf(reads: AuditedReads, role: Role, hops: readonly Hop[]): Promise<Witness | null> {
  const last = hops.at(-1);
  const reached = last === undefined ? null : reachedWhere(reads.audited, last.role.target, 'read');
  if (last === undefined || reached === null) return null;
  const hidden = isNotTrue(reached);
  const filter = last.filter === null ? hidden : both(last.filter, hidden);
  const leads = anyBehind([...hops.slice(0, -1), { ...last, filter }]);
  return (
    (await witnessOf(reads, role.entity, 'read', 'within reach', leads)) ??
    (await witnessOf(reads, role.entity, 'read', 'any', leads))
  );
}

/** What got out, in words: what was answered, beside what may be told. */
export function outIn({ difference }: Extract<Tried, { kind: 'other' }>): string {
  const { path, told, expected } = difference;
  const shown = (value: unknown) => {
    const text = JSON.stringify(value) ?? 'nothing';
    return text.length > MOST_SHOWN ? `${text.slice(0, MOST_SHOWN)}…` : text;
  };
  const where = path === '' ? 'The answer' : `At ${path} it`;
  return `${where} is ${shown(told)}, where ${shown(expected)} is all that they may be told.`;
}

const MOST_SHOWN = 160;
