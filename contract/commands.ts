import * as v from 'valibot';
import { ActorText, Span } from './parts.js';
import { FindingMessage, LogEntry } from './runs.js';

/** Commands to carry out: to stay, or to be told and taken back. */
export const CommandsAsk = v.object({
  text: v.pipe(v.string(), v.maxLength(100_000)),
  /** On whose behalf, as a text names them, where no line says it; left out, the system’s. */
  as: v.optional(ActorText),
});
export type CommandsAsk = v.InferOutput<typeof CommandsAsk>;

/** A row's fields, or what is loaded below it, as JSON has them. */
const Row = v.record(v.string(), v.unknown());

const WrittenRow = v.object({
  change: v.picklist(['created', 'found', 'updated', 'deleted', 'linked', 'already linked', 'unlinked', 'not linked']),
  entity: v.string(),
  key: v.string(),
  /** Of a pair: the role, and the row behind it. */
  link: v.nullable(v.object({ role: v.string(), entity: v.string(), key: v.string() })),
  /** The values that were written, and what filled each. */
  cells: v.array(
    v.object({
      name: v.string(),
      by: v.picklist(['given', 'default', 'pin', 'owner', 'engine', 'computed']),
      value: v.unknown(),
    }),
  ),
  before: v.nullable(Row),
  after: v.nullable(Row),
});
export type WrittenRow = v.InferOutput<typeof WrittenRow>;

export const CommandsDone = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    /** What each command does, in their order, and where it stands; `more`: rows that are not told one by one. */
    lines: v.array(v.object({ span: Span, rows: v.array(WrittenRow), more: v.number() })),
    /** What the database did to other rows: they are gone, or this role of them is empty. */
    along: v.array(v.object({ of: v.string(), role: v.nullable(v.string()), rows: v.number() })),
    /** Every statement; its span is the command that it serves. */
    log: v.array(LogEntry),
    findings: v.array(FindingMessage),
  }),
  v.object({
    ok: v.literal(false),
    findings: v.array(FindingMessage),
    problems: v.array(v.string()),
    /** Where the commands stand that were come to, the one that was refused last; none where nothing was carried out. */
    reached: v.array(Span),
    log: v.array(LogEntry),
  }),
]);
export type CommandsDone = v.InferOutput<typeof CommandsDone>;
