/** A text, read: what it says, what is wrong with it, and the tables that it asks for. */
import { findingsOf } from '../checks/index.js';
import { type Dialect, dialects } from '../dialects/index.js';
import { type Model, type Reference, type Resolved, resolve } from '../model/index.js';
import { type DialectName, type Finding, parse, type Syntax } from '../notation/index.js';
import { type SchemaOf, schemaOf } from '../schema/index.js';

export { type StatedSql, statedSqlOf } from './stated-sql.js';

export interface Design extends SchemaOf {
  /** What the schema is written in, and queries are asked in. */
  readonly dialect: Dialect;
  readonly text: string;
  readonly syntax: Syntax;
  readonly model: Model;
  /** In the order of the text. */
  readonly findings: readonly Finding[];
  /** Every name that means something, in the order of the text. */
  readonly references: readonly Reference[];
  readonly queryOf: Resolved['queryOf'];
  readonly commandsOf: Resolved['commandsOf'];
  readonly actorOf: Resolved['actorOf'];
  readonly rowOf: Resolved['rowOf'];
  readonly expectations: Resolved['expectations'];
}

/**
 * Reads a text whole: Syntax, Model, Schema and findings. Never throws.
 *
 * @param wanted the dialect of the database in use; the text’s own where there is none
 */
export function readDesign(text: string, wanted: DialectName | null = null): Design {
  const syntax = parse(text);
  const { model, findings, references, queryOf, commandsOf, actorOf, rowOf, expectations } = resolve(syntax);
  const dialect = dialects[wanted ?? model.dialect];
  const made = schemaOf(model, dialect);
  let ordered: readonly Reference[] | null = null;
  return {
    text,
    syntax,
    model,
    dialect,
    findings: findingsOf(findings, model, dialect, syntax, made),
    // Asked for by an editor alone.
    get references() {
      ordered ??= inOrder(references);
      return ordered;
    },
    queryOf: readOnce(queryOf),
    commandsOf,
    actorOf,
    rowOf,
    expectations,
    ...made,
  };
}

function inOrder(references: Resolved['references']): Reference[] {
  return Array.from(references.values()).sort((a, b) => a.span.start - b.span.start);
}

/** As many texts of queries as a person tries in a while. */
const MOST_QUERIES = 100;

/** A query's text is read once, and is the same value from then on: its plan is made, and its SQL printed, once too. */
function readOnce(queryOf: Resolved['queryOf']): Resolved['queryOf'] {
  const read = new Map<string, ReturnType<Resolved['queryOf']>>();
  return (text, parameters = [], given = new Map()) => {
    const key = JSON.stringify([text, parameters, Array.from(given)]);
    const known = read.get(key) ?? queryOf(text, parameters, given);
    read.delete(key);
    read.set(key, known);
    for (const oldest of read.keys()) {
      if (read.size <= MOST_QUERIES) break;
      read.delete(oldest);
    }
    return known;
  };
}
