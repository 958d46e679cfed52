import { type PlanStep, planStep } from '../../core/load/index.js';
import type { Connection, Positional } from '../server/connection.js';

/** A table that is read for less than this, in pages of a disk, is read whole rather than through an index. */
const SMALL_COST = 60;

interface PlanNode {
  readonly 'Node Type'?: string;
  readonly 'Relation Name'?: string;
  readonly Alias?: string;
  readonly 'Index Name'?: string;
  readonly 'Index Cond'?: string;
  readonly 'Recheck Cond'?: string;
  readonly 'Hash Cond'?: string;
  readonly 'Merge Cond'?: string;
  readonly 'Join Type'?: string;
  readonly 'Function Name'?: string;
  readonly 'Sort Key'?: readonly string[];
  readonly 'Plan Rows'?: number;
  readonly 'Actual Rows'?: number;
  readonly 'Total Cost'?: number;
  readonly Plans?: readonly PlanNode[];
}

/**
 * How PostgreSQL will answer a statement, in words (PostgreSQL, EXPLAIN); measured, how it did, with the rows of each step.
 */
export async function explain(connection: Connection, { sql, values }: Positional, measured: boolean): Promise<PlanStep[]> {
  const rows = await connection.query(`explain (${measured ? 'analyze, timing off, ' : ''}format json) ${sql}`, values);
  const parsed = JSON.parse(String(rows[0]?.[0] ?? '[]')) as readonly { readonly Plan?: PlanNode }[];
  const steps: PlanStep[] = [];
  const walk = (node: PlanNode, depth: number) => {
    const step = inWords(node);
    const { 'Plan Rows': expected = null, 'Actual Rows': found = null } = node;
    if (step !== null) steps.push(planStep(depth, step.text, { mark: step.mark, expected, found }));
    for (const inner of node.Plans ?? []) walk(inner, depth + (step === null ? 0 : 1));
  };
  for (const { Plan } of parsed) if (Plan !== undefined) walk(Plan, 0);
  return steps;
}

/** A node of the plan; null for one that says nothing to a person. */
function inWords(node: PlanNode): Pick<PlanStep, 'text' | 'mark'> | null {
  const table = named(node);
  const plain = (text: string) => ({ text, mark: null });
  switch (node['Node Type']) {
    case 'Seq Scan': {
      const small = (node['Total Cost'] ?? 0) < SMALL_COST;
      return { text: `reads every row of ${table}${small ? '; it is small' : ''}`, mark: small ? null : 'full scan' };
    }
    case 'Index Scan':
      if (node['Index Cond'] === undefined)
        return { text: `reads every row of ${table}, in the order of index ${node['Index Name']}`, mark: 'full scan' };
      return plain(`finds rows of ${table} by index ${node['Index Name']} ${conditionOf(node['Index Cond'])}`);
    case 'Index Only Scan':
      if (node['Index Cond'] === undefined)
        return { text: `reads every entry of index ${node['Index Name']}, and not the rows of ${table}`, mark: 'full scan' };
      return plain(
        `finds rows of ${table} by index ${node['Index Name']} ${conditionOf(node['Index Cond'])}, and needs nothing else`,
      );
    case 'Bitmap Heap Scan':
      return plain(`fetches the rows of ${table} that the index found`);
    case 'Bitmap Index Scan':
      return plain(`looks in index ${node['Index Name']} ${conditionOf(node['Index Cond'] ?? '')}`);
    case 'Nested Loop':
      return plain(`for each row of the first, finds those of the second${joinWords(node)}`);
    case 'Hash Join':
      return plain(`joins by a table of keys ${conditionOf(node['Hash Cond'] ?? '')}${joinWords(node)}`);
    case 'Merge Join':
      return plain(`joins two sorted lists ${conditionOf(node['Merge Cond'] ?? '')}${joinWords(node)}`);
    case 'Sort':
    case 'Incremental Sort':
      return { text: `sorts by ${(node['Sort Key'] ?? []).join(', ')}`, mark: 'sort' };
    case 'Materialize':
      return { text: 'keeps what it found to read it again', mark: 'temporary table' };
    case 'Aggregate':
      return plain('groups, or counts');
    case 'Function Scan':
      return plain(`goes through the keys that are bound (${node['Function Name'] ?? 'function'})`);
    case 'Limit':
    case 'Hash':
    case 'Result':
    case 'Memoize':
    case 'Append':
    case 'Gather':
    case 'Gather Merge':
    case 'Subquery Scan':
    case 'ProjectSet':
    case 'Unique':
      return null;
    default:
      return plain((node['Node Type'] ?? 'a step').toLowerCase());
  }
}

function named(node: PlanNode): string {
  const { Alias: alias, 'Relation Name': table = '' } = node;
  return alias === undefined || alias === table ? table : `${table} (${alias})`;
}

function conditionOf(condition: string): string {
  return condition.startsWith('(') ? condition : condition === '' ? '' : `(${condition})`;
}

function joinWords(node: PlanNode): string {
  return node['Join Type'] === 'Left' ? ', or none' : '';
}
