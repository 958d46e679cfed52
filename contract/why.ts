import * as v from 'valibot';
import { Span } from './parts.js';

/** Why a row is seen and may be changed by somebody, or not: each line of each wall with its values. */
export const Why = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    there: v.boolean(),
    seen: v.boolean(),
    changed: v.boolean(),
    walls: v.array(
      v.object({
        name: v.string(),
        span: Span,
        reads: v.boolean(),
        writes: v.boolean(),
        /** Whoever is at work is free of it, by one of these. */
        free: v.boolean(),
        unless: v.array(v.string()),
        lines: v.array(
          v.object({
            text: v.string(),
            span: Span,
            value: v.nullable(v.boolean()),
            parts: v.array(v.object({ text: v.string(), value: v.unknown() })),
          }),
        ),
      }),
    ),
  }),
  v.object({ ok: v.literal(false), problem: v.string() }),
]);
export type Why = v.InferOutput<typeof Why>;

/** A row, and whoever is at work, as a text names them. */
export const WhyAsk = v.object({ row: v.pipe(v.string(), v.maxLength(30_000)), as: v.pipe(v.string(), v.maxLength(10_000)) });
export type WhyAsk = v.InferOutput<typeof WhyAsk>;
