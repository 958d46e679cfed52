import { isRow, namedRow, type Witness } from '../core/audit/index.js';
import type { AuditCode } from '../core/checks/index.js';
import { nameText } from '../core/edits/index.js';
import type { Fix, Span } from '../core/notation/index.js';
import type { AuditedReads } from './audit-reads.js';

/** Something that the walls of a text leave open, or hardly mean: a row got out, or it is doubtful. */
export interface Hole {
  readonly code: AuditCode;
  /** *leak*: a row is reached that belongs to others. *doubt*: on these rows nothing is lost, but hardly meant. */
  readonly weight: 'leak' | 'doubt';
  readonly message: string;
  /** Where in the text. */
  readonly span: Span;
  /** Whoever reaches the row, and the row; null where it is none. */
  readonly as: string | null;
  readonly row: string | null;
  /** What a person can try to see it. */
  readonly text: string | null;
  readonly fix: Fix | null;
}

/** What is told of a row that somebody reaches, with the query that shows it. */
export function holeOf(
  reads: AuditedReads,
  row: Witness,
  {
    below = '',
    fix = null,
    ...told
  }: Pick<Hole, 'code' | 'weight' | 'message' | 'span'> & {
    readonly fix?: Fix | null;
    /** More lines of the query. */
    readonly below?: string;
  },
): Hole {
  const { model } = reads.lookedAt.design;
  const text = `from ${nameText(row.entity)}\nwhere ${isRow(model, row)}${below}`;
  return { ...told, as: reads.audited.as, row: namedRow(model, row), text, fix };
}

/** What is told of a wall, and of no row. */
export function doubtOf(code: AuditCode, span: Span, message: string): Hole {
  return { code, weight: 'doubt', message, span, as: null, row: null, text: null, fix: null };
}
