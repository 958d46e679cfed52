import type { Design } from '../core/design/index.js';
import type { Output } from '../core/plan/index.js';
import { bucketsOf, type Histogram, profileStatements } from '../core/profile/index.js';
import type { Select } from '../core/sql/index.js';
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

/** As many different numbers of children as a histogram is made of. */
const GROUPS = { typesHold: false, rowLimit: 1_000_000 };

function numbersOf({ columns }: Select): Output[] {
  return columns.map(({ as }) => ({
    as: as ?? 'count',
    type: { kind: 'integer' },
    name: as,
    pivot: null,
    parts: null,
    kinds: null,
  }));
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
  for (const statement of profileStatements(design.model, relation, design.dialect.values)) {
    const { select } = statement;
    statements.push(design.dialect.printQuery(select));
    const read = await engine.fetch(
      { query: select, outputs: numbersOf(select), parameters: {}, options: GROUPS },
      { patient: true },
    );
    if (!read.ok) return { ok: false, problem: read.problem.message };
    const [first = [], second = []] = read.value.cells;
    const count = Number(first[0] ?? 0);
    switch (statement.kind) {
      case 'rows':
        rows = count;
        break;
      case 'parents':
        parents = count;
        break;
      case 'groups': {
        const groups = first.map((children, row) => ({ children: Number(children), parents: Number(second[row]) }));
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
