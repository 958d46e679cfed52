import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { sqliteDialect } from '../dialects/index.js';
import { PlanTooLarge, planQuery } from '../plan/index.js';
import { SYSTEM, weave } from '../walls/index.js';
import { type Compiled, type Preparation, prepare, type RunInputs } from './index.js';

const LIBRARY = `entity Branch
  id    integer key
  name  text(20)

entity Player
  id    integer key
  name  text(20)

entity Loan
  id      integer key
  due_on  date

relation home
  Player knows one Branch as branch
  Branch knows many Player as players

relation mentoring
  Player knows at most one Player as mentor
  Player knows many Player as pupils

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans

scope late
  Loan where due_on < today
`;

const NOTHING_GIVEN: RunInputs = { parameters: {}, now: '2031-04-12T09:00:00.000000Z', sampleKeys: {} };

/** A query's text, prepared; parameters that its head names are left empty where none are given. */
function preparation(
  text: string,
  { head, madeHere = true, inputs = NOTHING_GIVEN }: { head?: string; madeHere?: boolean; inputs?: RunInputs } = {},
): Preparation {
  const options = head === undefined ? {} : { head };
  const design = readDesign(
    options.head === undefined ? LIBRARY : `${LIBRARY}\nquery q(${options.head})\n${text.replace(/^/gm, '  ')}\n`,
  );
  const { query, findings } =
    options.head === undefined
      ? design.queryOf(text)
      : { query: design.model.queries.get('q') ?? null, findings: design.findings };
  if (query === null) throw new Error(findings.map((finding) => finding.message).join('\n'));
  const database = { model: design.model, dialect: sqliteDialect, madeHere };
  return prepare(weave(planQuery(design.model, query), SYSTEM), database, inputs);
}

function plan(text: string, options: { head?: string; madeHere?: boolean; inputs?: RunInputs } = {}): Compiled {
  const ready = preparation(text, options);
  if (!ready.ok) throw new Error(ready.problems.join('\n'));
  return ready.prepared.compiled;
}

const sql = (text: string, madeHere = true) => sqliteDialect.printQuery(plan(text, { madeHere }).select);

describe('hops', () => {
  test('over a key that is surely there are inner joins, over one that may be empty left joins', () => {
    expect(sql("from Loan\nwhere borrower.branch.name = 'x'")).toMatch(/^join players[\s\S]*^join branches/m);
    expect(sql("from Player\nwhere mentor.branch.name = 'x'")).toMatch(/^left join players mentor[\s\S]*^left join branches/m);
  });

  test('in a database whose keys nobody keeps, no row may be lost over one', () => {
    expect(sql("from Loan\nwhere borrower.name = 'x'", false)).toMatch(/^left join players/m);
  });

  test('walked twice are joined once', () => {
    expect(
      sql("from Loan\nwhere borrower.name = 'x' or borrower.name like 'y%'\norder by borrower.name").match(/join players/g)
        ?.length,
    ).toBe(1);
  });

  test('to one table on two ways bear the names of their roles', () => {
    expect(sql("from Player\nwhere mentor.mentor.name = 'x'")).toMatch(
      /left join players mentor[\s\S]*left join players mentor_mentor/,
    );
  });
});

describe('parameters', () => {
  test('are bound under their names, moments of the clock too', () => {
    const { bindings } = plan('from Loan\nwhere late and due_on > :since', { head: 'since date optional' });
    expect(bindings.map(({ name, from }) => [name, from.kind])).toEqual([
      ['today', 'clock'],
      ['since', 'parameter'],
    ]);
  });

  test('a name that the statement has for itself is given another', () => {
    expect(plan('from Loan\nwhere due_on > :keys', { head: 'keys date optional' }).bindings[0]?.name).toBe('value_keys');
    expect(
      plan('from Loan\nwhere due_on > :today and due_on < today', { head: 'today date optional' }).bindings.map(
        (binding) => binding.name,
      ),
    ).toEqual(['today', 'today_2']);
  });

  test('used twice are bound once', () => {
    expect(plan('from Loan\nwhere due_on > :a or due_on < :a', { head: 'a date optional' }).bindings.length).toBe(1);
  });

  test('are read as their types: rows by key or sample name, optional ones may be missing', () => {
    const asked = 'from Loan\nwhere borrower = :who and due_on > :since';
    const head = 'who Player, since date optional';
    const bound = (parameters: RunInputs['parameters']) => {
      const inputs = { ...NOTHING_GIVEN, sampleKeys: { 'Player(ines)': 7 }, parameters };
      const ready = preparation(asked, { head, inputs });
      return ready.ok ? { ok: true, parameters: ready.prepared.parameters } : ready;
    };
    expect(bound({ who: 'ines' })).toEqual({ ok: true, parameters: { who: 7, since: null } });
    expect(bound({ who: '3', since: '2031-01-01' })).toEqual({ ok: true, parameters: { who: 3, since: '2031-01-01' } });
    expect(bound({ who: 'omar' })).toMatchObject({
      ok: false,
      problems: [expect.stringContaining('who: “omar” is no integer')],
    });
    expect(bound({})).toEqual({ ok: false, problems: ['The query needs a value for who.'] });
  });
});

describe('columns', () => {
  test('of a load are those chosen, the key, and those that rows are joined by', () => {
    const [load] = plan('from Branch\nload players (name)\n  loans').loads;
    expect(load?.outputs.map(({ as, name }) => [as, name])).toEqual([
      ['id', 'id'],
      ['name', 'name'],
      ['branch_id', null],
    ]);
    expect(load?.loads[0]?.ownersDistinct).toBe(true);
  });

  test('that only serve are not in the answer twice', () => {
    const { outputs, loads } = plan('from Loan\nload borrower (name)');
    expect(outputs.map((output) => output.as)).toEqual(['id', 'due_on', 'borrower_id']);
    expect(loads[0]).toMatchObject({ ownerColumns: ['borrower_id'], stitchColumns: ['id'], many: false, ownersDistinct: false });
  });
});

describe('the answer’s shape', () => {
  test('count asks for one number, over a derived table where a limit stands', () => {
    expect(sql('from Loan\ncount')).toBe('select count(*) as count\nfrom loans');
    expect(sql('from Loan\nlimit 3\ncount')).toMatch(
      /^select count\(\*\) as count\nfrom \(\n {2}select loans\.id as counted\n {2}from loans\n {2}limit 3\n\) counted/,
    );
  });

  test('first asks for one row, one for two', () => {
    expect(sql('from Loan\nfirst')).toMatch(/limit 1$/);
    expect(sql('from Loan\none')).toMatch(/limit 2$/);
  });
});

test('scopes that multiply without end are left out, and a query of more of them than a statement can hold is refused', () => {
  const scopes = Array.from(
    { length: 24 },
    (_, index) => `scope s${index}\n  Loan where ${index === 0 ? 'due_on < today' : `s${index - 1} or s${index - 1}`}`,
  ).join('\n\n');
  const design = readDesign(`${LIBRARY}\n${scopes}\n`);
  expect(design.findings.filter(({ code }) => code === 'too-deep').map(({ message }) => message)).toEqual([
    expect.stringMatching(/^scope s\d+ of Loan comes to more than 20,000 parts/),
  ]);
  expect(design.queryOf('from Loan\nwhere s23').findings).not.toEqual([]);
  const { query } = design.queryOf(`from Loan\nwhere ${Array(60).fill('s11').join(' or ')}`);
  if (query === null) throw new Error('no query');
  expect(() => planQuery(design.model, query)).toThrow(PlanTooLarge);
});

test('a count that several derived fields use is asked once, in the order and to the limit of the query', () => {
  const design = readDesign(`entity Player
  id     integer key
  name   text(20)
  loaned = count(loans)
  keen   = count(loans) > 3 and name <> 'x'
  told   = name || ': ' || count(loans)
  lazy   = none(loans)
  order by name

entity Loan
  id  integer key

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans
`);
  const sqlOf = (text: string) => {
    const { query } = design.queryOf(text);
    if (query === null) throw new Error(`${text} is no query`);
    const database = { model: design.model, dialect: sqliteDialect, madeHere: true };
    const ready = prepare(weave(planQuery(design.model, query), SYSTEM), database, NOTHING_GIVEN);
    return ready.ok ? sqliteDialect.printQuery(ready.prepared.compiled.select) : ready.problems.join();
  };
  const sql = sqlOf('from Player\nlimit 5');
  expect(sql.match(/count\(\*\)/g)).toHaveLength(1);
  expect(sql).toMatch(/limit 5\n\) fetched_rows\norder by fetched_rows\.name, fetched_rows\.id$/);
  expect(sqlOf('from Player\norder by count(loans) desc').match(/count\(\*\)/g)).toHaveLength(1);
  expect(sqlOf('from Loan')).not.toContain('fetched_rows');
});
