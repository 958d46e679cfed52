import type { LogEntry } from '../load/index.js';
import type { Wire } from '../values/index.js';

/**
 * What becomes of rows when others are deleted. *may refuse*: they would stand in the way, and go along themselves; which comes first
 * is the engine's to say.
 */
export type ImpactEffect = 'goes along' | 'is emptied' | 'gets its default' | 'refuses' | 'may refuse' | 'stays';

/** Rows that a delete reaches, all in one way. */
export interface ImpactGroup {
  readonly effect: ImpactEffect;
  /** How many deletes they are away from the rows that were meant: 1 for those that point at these. */
  readonly generation: number;
  /** The entity of the rows, or the relation whose pairs they are; of a table that is neither, its name. */
  readonly of: string;
  /** The roles by which they point, or the columns where nobody named one. */
  readonly over: readonly string[];
  /** The table in which they stand, and of rows that stay the columns that point. */
  readonly table: string;
  readonly columns: readonly string[];
  readonly rows: number;
  /** How many of the rows point by each, where there are several; a row may by more than one. */
  readonly ways: readonly { readonly over: string; readonly rows: number }[];
  /** The foreign key or the trigger that does it; empty where nothing does, or it has no name. */
  readonly by: string;
}

/** What a delete reaches, told before anything is touched. */
export interface Impact {
  /** How many rows were meant, and of what. */
  readonly rows: readonly { readonly entity: string; readonly rows: number }[];
  /** The nearer before those farther away. */
  readonly groups: readonly ImpactGroup[];
  /** Triggers that others wrote on tables that are reached: what they do is not told by reading them. */
  readonly unforeseen: readonly { readonly table: string; readonly trigger: string }[];
  /** The statement that counted. */
  readonly log: readonly LogEntry[];
}

/** Rows of one group, by their keys: a few of them. */
export interface ImpactLook {
  readonly entity: string;
  readonly keys: readonly Wire[];
}

/** The outcome of asking what a delete reaches; the words where the rows that were meant cannot be told. */
export type ImpactOutcome =
  | { readonly ok: true; readonly impact: Impact; readonly looks: readonly (ImpactLook | null)[] }
  | { readonly ok: false; readonly message: string };
