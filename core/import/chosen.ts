import type { Table } from '../schema/index.js';
import { type Existing, fullName, targetOf } from './existing.js';

/** A part of a database, and what was left behind with the rest. */
export interface Chosen {
  readonly existing: Existing;
  /** One line each: the thing, and why it did not come along. */
  readonly left: readonly string[];
}

/**
 * The tables of a database whose names fit one of the patterns, in which `*` stands for anything. A foreign key to a table
 * that stays behind stays behind with it, and so does what stands on tables: views, and what is made of them.
 */
export function chosenTables(existing: Existing, patterns: readonly string[]): Chosen {
  const fits = patterns.map((pattern) => new RegExp(`^${pattern.split('*').map(escaped).join('.*')}$`, 'i'));
  const wanted = existing.schema.tables.filter(({ name }) => fits.some((fit) => fit.test(name.name) || fit.test(fullName(name))));
  const names = new Set(wanted.map(({ name }) => fullName(name).toLowerCase()));
  const left: string[] = [];
  const tables = wanted.map((table): Table => {
    const [kept, lost] = [true, false].map((there) =>
      table.foreignKeys.filter((key) => names.has(targetOf(key).toLowerCase()) === there),
    );
    for (const key of lost ?? [])
      left.push(`${table.name.name}: the foreign key (${key.columns.join(', ')}) → ${key.table}, which was not brought in.`);
    return { ...table, foreignKeys: kept ?? [] };
  });
  const { others } = existing.schema;
  if (others.length > 0 && wanted.length < existing.schema.tables.length)
    left.push(`${others.length} views and other things that stand on tables, since only some tables were brought in.`);
  const all = wanted.length === existing.schema.tables.length;
  return { existing: { ...existing, schema: { ...existing.schema, tables, others: all ? others : [] } }, left };
}

/** Names, or patterns of names, as a person lists them. */
export function patternsIn(written: string): string[] {
  return written.split(/[\s,]+/).filter((part) => part !== '');
}

function escaped(text: string): string {
  return text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
}
