import * as v from 'valibot';
import { recordOf, Span } from './parts.js';

const Fix = v.object({ title: v.string(), edits: v.array(v.object({ span: Span, text: v.string() })) });

/** How far an audit of walls has come, and what it has found. */
export const AuditState = v.object({
  actors: v.array(v.object({ as: v.string(), shown: v.string(), kind: v.string(), rows: v.nullable(v.number()) })),
  /** Whether commands are tried: the database could be written to when it was begun. */
  writes: v.boolean(),
  /** How many of its pieces are done, of all. */
  done: v.number(),
  all: v.number(),
  /** What it is at, in words. */
  at: v.string(),
  /** By kind of way, how many have held and how many have not. */
  ways: recordOf(v.object({ held: v.number(), leaked: v.number() })),
  leaks: v.array(
    v.object({
      way: v.string(),
      as: v.string(),
      entity: v.string(),
      text: v.string(),
      told: v.string(),
      statement: v.string(),
    }),
  ),
  holes: v.array(
    v.object({
      code: v.picklist([
        'no-wall',
        'opens-when-null',
        'lets-all-through',
        'lets-none-through',
        'frees-all',
        'read-alone',
        'seen-apart',
      ]),
      weight: v.picklist(['leak', 'doubt']),
      message: v.string(),
      span: Span,
      as: v.nullable(v.string()),
      row: v.nullable(v.string()),
      text: v.nullable(v.string()),
      fix: v.nullable(Fix),
    }),
  ),
  /** What is seen of rows that are not, by design. */
  tells: v.array(v.object({ message: v.string(), span: Span })),
  untried: v.array(v.object({ why: v.string(), ways: v.number(), example: v.string() })),
});
export type AuditState = v.InferOutput<typeof AuditState>;

/** An audit of a tree's walls, kept with when and of which text. */
export const Audit = v.object({
  id: v.number(),
  begunAt: v.string(),
  revision: v.number(),
  state: AuditState,
});
export type Audit = v.InferOutput<typeof Audit>;

/** The last audit of a tree, and the one before it that came to its end. */
export const Audits = v.object({
  latest: v.nullable(Audit),
  before: v.nullable(Audit),
  /** What no audit tries, in words. */
  neverTried: v.array(v.string()),
});
export type Audits = v.InferOutput<typeof Audits>;

/** How an audit went on; or why it could not. */
export const AuditStep = v.variant('ok', [
  v.object({ ok: v.literal(true), audit: Audit }),
  v.object({ ok: v.literal(false), problem: v.string() }),
]);
export type AuditStep = v.InferOutput<typeof AuditStep>;

/** What is kept of an audit while it is not worked at. */
export const AuditPart = v.variant('ok', [
  v.object({ ok: v.literal(true), state: AuditState }),
  v.object({ ok: v.literal(false), problem: v.string() }),
]);
export type AuditPart = v.InferOutput<typeof AuditPart>;
