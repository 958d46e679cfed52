import type { Load, Query } from './model.js';

const NO_SPAN = { start: 0, end: 0 };

/** A query for all rows of an entity, whole, but for what the parts say: it stands in no text. */
export function queryOf(entity: string, parts: Partial<Omit<Query, 'entity'>> = {}): Query {
  return {
    name: null,
    entity,
    parameters: [],
    where: [],
    show: null,
    distinct: false,
    groupBy: null,
    having: null,
    orderBy: [],
    limit: null,
    offset: null,
    loads: [],
    reads: [],
    lifts: [],
    cardinality: 'many',
    note: null,
    span: NO_SPAN,
    ...parts,
  };
}

/** A load of all rows behind a role, whole, but for what the parts say: it stands in no text. */
export function loadOf(role: Load['role'], parts: Partial<Omit<Load, 'role'>> = {}): Load {
  return {
    role,
    branch: false,
    fields: null,
    pivotFields: null,
    where: null,
    orderBy: [],
    limit: null,
    only: null,
    by: null,
    loads: [],
    span: NO_SPAN,
    ...parts,
  };
}
