import { escaped, Faulty, fault, type Given, type LiveFault, type ResourceType } from '../core/live/index.js';
import type { Wire } from '../core/values/index.js';
import type { RefusedFor } from '../core/write/index.js';
import type { DoOutcome } from './do-commands.js';
import type { Answering } from './live-request.js';
import { uniqueOf } from './refused-for.js';
import { whySeen } from './why-seen.js';

/** What a command was meant for. */
export interface Meant {
  /** What the body said, whose members faults are told of; null where it was a linkage, or nothing. */
  readonly given: Given | null;
  /** The resource that is changed; null where one is made. */
  readonly at: { readonly type: ResourceType; readonly key: Wire } | null;
  /** Where in the body its document stands: empty for the whole of it. */
  readonly place: string;
}

/**
 * Carries commands out on behalf of whoever asks.
 *
 * @param of what a command, counted from 0, was meant for
 * @throws Faulty where they are refused
 */
export async function carriedOut(
  answering: Answering,
  text: string,
  of: (line: number) => Meant,
): Promise<Extract<DoOutcome, { ok: true }>> {
  const { live, request, work } = answering;
  work.texts.push(text);
  const outcome = await live.write(text, request.as);
  const log = outcome.ok ? outcome.carried.log : outcome.log;
  for (const entry of log)
    work.log.push(
      entry.kind === 'read'
        ? { plain: entry.plain, milliseconds: entry.milliseconds, rows: entry.rows, values: [] }
        : {
            plain: entry.plain,
            milliseconds: entry.milliseconds,
            rows: entry.rows,
            values: entry.values.map(({ name, shown }) => `${name} = ${shown}`),
          },
    );
  if (outcome.ok) return outcome;
  throw new Faulty([await faultFor(answering, outcome, of(outcome.refusal?.line ?? 0))]);
}

async function faultFor(
  answering: Answering,
  outcome: Extract<DoOutcome, { ok: false }>,
  { given, at, place }: Meant,
): Promise<LiveFault> {
  const told = await faultOf(answering, outcome, { given, at, place });
  const { source } = told;
  const isPlaced = place !== '' && (source === null || 'pointer' in source);
  return isPlaced ? { ...told, source: { pointer: `${place}${source === null ? '' : source.pointer}` } } : told;
}

async function faultOf(
  answering: Answering,
  outcome: Extract<DoOutcome, { ok: false }>,
  { given, at }: Meant,
): Promise<LiveFault> {
  const [wrong] = outcome.findings.filter(({ weight }) => weight === 'error');
  if (wrong !== undefined) return fault(422, wrong.message, null);
  const { refusal } = outcome;
  if (refusal === null) return fault(503, 'The database did not answer. Ask again in a moment.');
  const { why, words } = refusal;
  switch (why.kind) {
    case 'lacking':
      return lackingFault(why, given);
    case 'rule':
      return fault(422, words);
    case 'constraint': {
      const source = sourceOf(answering, why.table, why.broken, given);
      if (why.broken.kind === 'unique') return fault(409, words, source);
      // What others point at stays; what points nowhere does not fit.
      if (why.broken.kind === 'key') return given === null ? fault(409, words) : fault(404, words, source);
      // The engine’s own words are for whoever keeps the database.
      return why.broken.kind === 'other'
        ? fault(422, 'A value does not fit what the database keeps.')
        : fault(422, words, source);
    }
    case 'words':
      if (why.about === 'wall') return fault(403, words);
      if (why.about === 'row')
        return at !== null && (await isKept(answering, at)) ? fault(403, 'It may be read, and not changed.') : fault(404, words);
      return fault(422, words);
  }
}

/** What lacks stands nowhere in the body: the place is that of the resource (JSON:API 1.1, “Error Objects”). */
function lackingFault({ lacked }: Extract<RefusedFor, { kind: 'lacking' }>, given: Given | null): LiveFault {
  const source = given === null ? null : { pointer: '/data' };
  switch (lacked.kind) {
    case 'role': {
      const over = given?.type.relationships.find(({ role }) => role.name === lacked.name);
      return fault(422, `${over?.member ?? lacked.name} is required, among the relationships.`, source);
    }
    case 'field': {
      const attribute = given?.type.attributes.find(({ field }) => field.name === lacked.name);
      return fault(422, `${attribute?.member ?? lacked.name} is required, among the attributes.`, source);
    }
    case 'pair field':
      return fault(422, `${lacked.name} is required of each pair: it stands in the meta of the linkage.`);
  }
}

/** Whether a row that is read may not be written. */
async function isKept(
  { live, request }: Answering,
  { type, key }: { readonly type: ResourceType; readonly key: Wire },
): Promise<boolean> {
  const { entity } = type;
  const row = { kind: 'value', value: key, type: { kind: 'row', entity: entity.name }, span: { start: 0, end: 0 } } as const;
  const told = await whySeen(live, row, request.as, { signal: request.signal });
  return told.ok && told.value.seen && !told.value.changed;
}

/** The member of the body whose column a constraint is of, where it is one. */
function sourceOf(
  { live }: Answering,
  table: string,
  broken: { readonly kind: string; readonly columns: readonly string[]; readonly constraint: string },
  given: Given | null,
): LiveFault['source'] {
  if (given === null) return null;
  const { schema } = live.design;
  const known = schema.tables.find((one) => one.name.name === table);
  const unique = known === undefined ? null : uniqueOf(known, { ...broken, kind: 'unique' });
  const columns = broken.columns.length > 0 ? broken.columns : (unique?.columns ?? []);
  const [column] = columns;
  if (column === undefined) return null;
  const attribute = given.type.attributes.find(({ stored }) => stored?.column.value === column);
  if (attribute !== undefined) return { pointer: `/data/attributes/${escaped(attribute.member)}` };
  const over = given.type.relationships.find(({ role }) => {
    const [first] = 'branches' in role ? role.branches : [role];
    return first?.way.kind === 'key' && first.way.columns.includes(column);
  });
  return over === undefined ? null : { pointer: `/data/relationships/${escaped(over.member)}` };
}
