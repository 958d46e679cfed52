import type { Model, Relation } from '../../model/index.js';
import type { EntityTables } from '../holders.js';
import type { TableBuilder } from '../tables.js';
import type { Link } from '../triggers/links.js';

/** The tables that a form of relations adds its columns and constraints to. */
export interface FormSite {
  readonly model: Model;
  /** The tables of the entities. */
  readonly tables: EntityTables;
  /** Begins the table of a pivot's pairs; null where another has its name. */
  pairs(relation: Extract<Relation, { kind: 'pivot' | 'polymorphic pivot' }>): TableBuilder | null;
}

/** One form of relations as tables have it. */
export interface RelationForm<Form extends Relation> {
  /** Its columns, foreign keys and checks, and the table of its pairs. */
  add(relation: Form, site: FormSite): void;
  /** Indexes on its key columns; they come last, so that a unique that begins with a column serves instead. */
  addIndexes(relation: Form, site: Pick<FormSite, 'model' | 'tables'>): void;
  /** What of it no foreign key can keep, and triggers do. */
  links(relation: Form, site: Pick<FormSite, 'model' | 'tables'>, all: ReadonlyMap<string, TableBuilder>): readonly Link[];
}
