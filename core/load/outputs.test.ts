import Database from 'better-sqlite3';
import { afterAll, expect, test } from 'vitest';
import { drive } from '../../engines/index.js';
import { preparedPlan, queryIn } from '../../tests/prepared.js';
import { readDesign } from '../design/index.js';
import { entityOf, fieldOf } from '../model/index.js';
import { type PlannedExpression, type PlanOutput, planQuery, type QueryPlan } from '../plan/index.js';
import { fetch, loadRows, type StatementResult, writtenSql } from './index.js';

const design = readDesign(`entity Branch
  id    integer key
  name  text(20)

entity Player
  id    integer key
  name  text(20)
  born  integer

relation home
  Player knows one Branch as branch
  Branch knows many Player as players
`);
const { model, dialect } = design;

const db = new Database(':memory:');
for (const sql of dialect.createStatements(design.schema)) db.exec(sql);
db.exec(`insert into branches values (1, 'North'), (2, 'South');
  insert into players (id, name, born, branch_id) values (1, 'Ines', 2001, 1), (2, 'Omar', 1999, 1), (3, 'Ada', 2001, 2)`);
afterAll(() => db.close());

const execute = ({ sent, parameters }: { sent: string; parameters: object }): StatementResult => ({
  rows: db.prepare(sent).raw().all(parameters) as unknown[][],
  milliseconds: 0,
  steps: [],
  refused: null,
});

/** The plan of a query, with another output; what it shows of a player is a field of the root. */
function planned(text: string, output: (root: QueryPlan['root']) => PlanOutput): QueryPlan {
  const plan = planQuery(model, queryIn(design, text), { alone: true });
  return { ...plan, output: output(plan.root) };
}

function field(root: QueryPlan['root'], name: string): { name: string; expression: PlannedExpression } {
  const { type, span } = fieldOf(entityOf(model, 'Player').fields, name);
  return { name, expression: { kind: 'field', access: root.id, entity: 'Player', field: name, type, span } };
}

function cellsOf(plan: QueryPlan): readonly (readonly unknown[])[] {
  const { compiled, parameters } = preparedPlan(design, plan);
  const options = { madeHere: true, rowLimit: 100 };
  return drive(fetch(dialect, { query: compiled.select, outputs: compiled.outputs, parameters, options }), execute).cells;
}

test('shown: expressions over the rows, one line for each', () => {
  const plan = planned('from Player\norder by born, name', (root) => ({
    kind: 'shown',
    columns: [field(root, 'name'), field(root, 'born')],
    distinct: false,
  }));
  expect(cellsOf(plan)).toEqual([
    ['Omar', 'Ada', 'Ines'],
    [1999, 2001, 2001],
  ]);
});

test('exists: a line where there is any, and none where there is not', () => {
  expect(cellsOf(planned('from Player\nwhere born < 2000', () => ({ kind: 'exists', of: null })))).toEqual([[1]]);
  expect(cellsOf(planned('from Player\nwhere born < 1000', () => ({ kind: 'exists', of: null })))).toEqual([[]]);
});

test('keys: those of the rows, in their order, and no table but those that the order needs', () => {
  const plan = planQuery(model, queryIn(design, 'from Player\norder by branch.name desc'), { output: 'keys' });
  expect(cellsOf(plan)).toEqual([[3, 1, 2]]);
  const plain = planQuery(model, queryIn(design, 'from Player'), { output: 'keys' });
  expect(writtenSql(preparedPlan(design, plain), dialect)).toBe('select players.id as "key"\nfrom players\norder by players.id');
});

test('a field that may not be seen is said to be hidden, and is not read', () => {
  const plan = planQuery(model, queryIn(design, 'from Player\nwhere born = 1999'));
  if (plan.output.kind !== 'rows') throw new Error('rows were asked for');
  const fields = plan.output.fields.map((one) =>
    one.kind === 'stored' && one.field.name === 'name' ? ({ kind: 'hidden', name: 'name', kinds: null } as const) : one,
  );
  const prepared = preparedPlan(design, { ...plan, output: { kind: 'rows', fields } });
  expect(writtenSql(prepared, dialect)).not.toContain('players.name');
  expect(drive(loadRows(dialect, { prepared, rowLimit: 10 }), execute).rows).toEqual([
    { id: 2, born: 1999, branch_id: 1, name: { hidden: true } },
  ]);
});
