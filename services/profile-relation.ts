import type { Design } from '../core/design/index.js';
import { sqliteDialect } from '../core/dialects/index.js';
import { bucketsOf, type Histogram, profileStatements } from '../core/profile/index.js';
import type { Engine } from '../engines/index.js';

/** What the rows say about a relation. */
export interface RelationProfile {
  /** Rows that hold the keys: children, or pairs. */
  readonly rows: number;
  readonly ends: readonly { readonly entity: string; readonly role: string | null; readonly histogram: Histogram }[];
  /** Rows whose key is empty. */
  readonly empty: readonly { readonly column: string; readonly rows: number }[];
  /** Rows whose key points at a row that is not there. */
  readonly dangling: readonly { readonly column: string; readonly rows: number }[];
  readonly milliseconds: number;
  readonly statements: readonly string[];
}

/** Looks at the rows of a relation with a few set-based statements; a problem where the database has not all of it. */
export async function profileRelation(
  design: Design,
  engine: Engine,
  name: string,
): Promise<{ readonly ok: true; readonly profile: RelationProfile } | { readonly ok: false; readonly problem: string }> {
  const relation = design.model.relations.get(name);
  if (relation === undefined) return { ok: false, problem: `There is no relation ${name} in the text.` };
  const started = performance.now();
  let rows = 0;
  let parents = 0;
  const ends: RelationProfile['ends'][number][] = [];
  const empty: RelationProfile['empty'][number][] = [];
  const dangling: RelationProfile['dangling'][number][] = [];
  const statements: string[] = [];
  for (const statement of profileStatements(design.model, relation)) {
    const sql = sqliteDialect.printQuery(statement.select);
    statements.push(sql);
    const read = await engine.read(sql, {});
    if (!read.ok) return { ok: false, problem: read.problem.message };
    const count = Number(read.value[0]?.[0] ?? 0);
    switch (statement.kind) {
      case 'rows':
        rows = count;
        break;
      case 'parents':
        parents = count;
        break;
      case 'groups': {
        const groups = read.value.map((row) => ({ children: Number(row[0]), parents: Number(row[1]) }));
        ends.push({ entity: statement.entity, role: statement.role, histogram: bucketsOf(parents, groups) });
        break;
      }
      case 'empty':
        empty.push({ column: statement.column, rows: count });
        break;
      case 'dangling':
        dangling.push({ column: statement.column, rows: count });
        break;
    }
  }
  return { ok: true, profile: { rows, ends, empty, dangling, milliseconds: performance.now() - started, statements } };
}
