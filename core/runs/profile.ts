import { fetch, type Prepared } from '../load/index.js';
import { bucketsOf, type Histogram, type ProfileAsk } from '../profile/index.js';
import type { Run } from './run.js';

export type ProfileInput = readonly { readonly tells: ProfileAsk; readonly prepared: Prepared }[];

/** The profile of a relation's rows: histograms, empty keys, dangling keys. */
export interface ProfiledRows {
  /** Rows that hold the keys: children, or pairs. */
  readonly rows: number;
  readonly ends: readonly { readonly entity: string; readonly role: string | null; readonly histogram: Histogram }[];
  /** Rows whose key is empty. */
  readonly empty: readonly { readonly column: string; readonly rows: number }[];
  /** Rows whose key points at a row that is not there. */
  readonly dangling: readonly { readonly column: string; readonly rows: number }[];
}

/** As many different numbers of children as a histogram is made of. */
const MOST_GROUPS = 1_000_000;

/** Looks at the rows of a relation with a few set-based statements. */
export const profile: Run<ProfileInput, ProfiledRows> = {
  pace: 'by statement',
  *compute(dialect, input) {
    let rows = 0;
    let parents = 0;
    const ends: ProfiledRows['ends'][number][] = [];
    const empty: ProfiledRows['empty'][number][] = [];
    const dangling: ProfiledRows['dangling'][number][] = [];
    for (const { tells, prepared } of input) {
      const { select: query, outputs } = prepared.compiled;
      const options = { madeHere: false, rowLimit: MOST_GROUPS };
      const { cells } = yield* fetch(dialect, { query, outputs, parameters: prepared.parameters, options });
      const [first = [], second = []] = cells;
      const count = Number(first[0] ?? 0);
      switch (tells.kind) {
        case 'rows':
          rows = count;
          break;
        case 'parents':
          parents = count;
          break;
        case 'groups': {
          const groups = first.map((children, row) => ({ children: Number(children), parents: Number(second[row]) }));
          ends.push({ entity: tells.entity, role: tells.role, histogram: bucketsOf(parents, groups) });
          break;
        }
        case 'empty':
          empty.push({ column: tells.column, rows: count });
          break;
        case 'dangling':
          dangling.push({ column: tells.column, rows: count });
          break;
      }
    }
    return { rows, ends, empty, dangling };
  },
};
