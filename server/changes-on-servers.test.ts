import { randomUUID } from 'node:crypto';
import * as v from 'valibot';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { ChangesPlanned, DesignDatabase, PlanApplied, type PlanGoal, Tree } from '../contract/index.js';
import { type Engine, openAt } from '../engines/index.js';
import { askServer } from '../tests/ask-server.js';
import { temporaryFolder } from '../tests/database.js';
import { addressOf } from '../tests/engines.js';
import { type Serving, serve } from './index.js';

const folder = temporaryFolder();
let serving: Serving;
beforeAll(async () => {
  serving = await serve({ data: folder.path, host: '127.0.0.1', port: 0, token: null, uploadLimit: 1e6, quiet: true });
});
afterAll(async () => {
  await serving.close();
  folder.remove();
});
const ask = askServer(() => serving.port);

const INSTRUMENTS = `tree 'Stock'

entity Instrument in instruments
  id     integer key
  grams  integer optional
  check weighed: grams is null or grams > 0
`;
const UNCHECKED = INSTRUMENTS.replace(/ {2}check.*\n/, '');

describe.each(['postgres', 'mariadb'] as const)('a database on a server of %s', (name) => {
  const called = `changes_${randomUUID().slice(0, 8)}`;
  const { password } = inject('servers');
  const server = addressOf(inject('servers')[name]);
  const address = `${name}://${server.user}@${server.host}:${server.port}/${called}`;
  let engine: Engine;
  let tree: Tree;
  let database: DesignDatabase;

  const added = async (text: string) => v.parse(Tree, (await ask('POST', 'trees', { from: 'text', text })).body);
  const give = (to: Tree, make: boolean) =>
    ask('POST', `trees/${to.id}/databases`, { kind: 'server', address, password, keepPassword: false, label: 'staging', make });
  const plan = async (goal: PlanGoal, of = tree, on = database, agreed: readonly string[] = []) => {
    const body = { goal, agreed, powers: agreed.length > 0 };
    return v.parse(ChangesPlanned, (await ask('POST', `trees/${of.id}/databases/${on.id}/plan`, body)).body);
  };
  const carriedOut = async (goal: PlanGoal) => {
    const planned = await plan(goal);
    if (!planned.ok) throw new Error(planned.problem);
    const wish = { plan: planned.plan, name: 'a change', allowLoss: true, typed: called };
    return v.parse(PlanApplied, (await ask('POST', `trees/${tree.id}/databases/${database.id}/apply`, wish)).body);
  };
  const run = async (...statements: string[]) => expect(await engine.execute(statements)).toMatchObject({ ok: true });

  beforeAll(async () => {
    tree = await added(INSTRUMENTS);
    engine = openAt({ address: { ...server, database: called }, password, place: null, label: called, milliseconds: 60_000 });
  });
  afterAll(async () => {
    await engine.close();
    const first = { ...server, database: name === 'postgres' ? 'postgres' : '' };
    const all = openAt({ address: first, password, place: null, label: called, milliseconds: 60_000 });
    await all.execute([name === 'postgres' ? `drop database ${called} with (force)` : `drop database ${called}`]);
    await all.close();
  });

  test('that is not there is made, empty, and becomes the design; one that is there is not made again', async () => {
    expect(await ask('POST', 'database/try', { address, password })).toMatchObject({ status: 404 });
    const made = await give(tree, true);
    expect(made).toMatchObject({ status: 201, body: { kind: 'server', typed: called } });
    database = v.parse(DesignDatabase, made.body);
    expect(await give(tree, true)).toMatchObject({ status: 422, body: { message: expect.stringContaining('exists') } });
    expect(await ask('POST', 'database/try', { address, password })).toMatchObject({ status: 200 });
    expect(await carriedOut('text')).toMatchObject({ kind: 'applied', number: 1 });
  });

  test('is taken back without a question where its history was written from here', async () => {
    await ask('PUT', `trees/${tree.id}/text`, { text: UNCHECKED, basedOn: 1 });
    expect(await carriedOut('text')).toMatchObject({ kind: 'applied', number: 2 });
    expect(await plan('before')).toMatchObject({ ok: true, undoes: { number: 2 } });
  });

  test('whose history was written elsewhere is taken back once a person has looked at the SQL that it states', async () => {
    const other = await added(UNCHECKED);
    const given = v.parse(DesignDatabase, (await give(other, false)).body);
    const asks = await plan('before', other, given);
    const statements = asks.ok ? [] : (asks.states?.statements ?? []);
    expect(statements.map(({ sql }) => sql)).toEqual([expect.stringMatching(/grams.? is null|grams.? IS NULL/)]);
    const digests = statements.map(({ digest }) => digest);
    expect(await plan('before', other, given, digests)).toMatchObject({ ok: true, undoes: { number: 2 } });
    expect(await plan('text', other, given)).toMatchObject({ ok: true, changes: [] });
  });

  test('whose history states more than it seems to is refused, with the entry that does', async () => {
    const plans = "update family_tree_changes set plan = replace(plan, '{from}', '{to}') where number = 2";
    const swap = (from: string, to: string) => run(plans.replace('{from}', from).replace('{to}', to));
    const [was, is] = ['"default":null', '"default":"1), planted int default (2"'];
    await swap(was, is);
    expect(await plan('before')).toMatchObject({
      ok: false,
      problem: expect.stringMatching(/^Number 2 of the history.*planted/),
    });
    await swap(is, was);
    await swap('"asides":[]', '"asides":["no aside"]');
    expect(await plan('text')).toMatchObject({ ok: false, problem: expect.stringContaining('at plan.asides.0: ') });
    await swap('"asides":["no aside"]', '"asides":[]');
    expect(await plan('before')).toMatchObject({ ok: true });
  });

  test.runIf(name === 'mariadb')(
    'that says of itself that a plan is half done is settled once its statements were looked at',
    async () => {
      const sql = 'create table planted (id int)';
      const request = JSON.stringify({ operations: [{ sql, kind: 'define', what: '', table: null }], noted: { name: 'Theirs' } });
      await run(
        'create table family_tree_applying (id int not null primary key, done int not null, way varchar(10) not null, request longtext not null)',
        `insert into family_tree_applying values (1, 0, 'forth', '${request}')`,
      );
      const asks = await plan('text');
      expect(asks).toMatchObject({
        ok: false,
        problem: expect.stringContaining('“Theirs” was left half done'),
        states: { statements: [{ sql }] },
      });
      const settle = () => ask('POST', `trees/${tree.id}/databases/${database.id}/settling`, { way: 'finish' });
      expect((await settle()).body).toMatchObject({
        ok: false,
        problem: expect.stringContaining('Look at its statements first'),
      });
      const digests = asks.ok ? [] : (asks.states?.statements.map(({ digest }) => digest) ?? []);
      expect(await plan('text', tree, database, digests)).toMatchObject({ ok: false, left: { canFinish: true } });
      await run("update family_tree_applying set request = 'no plan'");
      expect(await plan('text')).toMatchObject({ ok: false, problem: expect.stringContaining('cannot be read') });
      await run('delete from family_tree_applying');
      expect(await plan('text')).toMatchObject({ ok: true });
    },
  );
});

test('a MariaDB database whose texts compare otherwise by default becomes the design, and a change of it is carried out there', async () => {
  const called = `defaults_${randomUUID().slice(0, 8)}`;
  const { password } = inject('servers');
  const server = addressOf(inject('servers').mariadb);
  const milliseconds = 60_000;
  const all = openAt({ address: { ...server, database: '' }, password, place: null, label: called, milliseconds });
  await all.execute([`create database ${called} character set latin1 collate latin1_swedish_ci`]);
  const text = `tree 'Stock'\n\nentity Maker in makers\n  id    integer key\n  name  text(40) unique\n`;
  const tree = v.parse(Tree, (await ask('POST', 'trees', { from: 'text', text })).body);
  const address = `mariadb://${server.user}@${server.host}:${server.port}/${called}`;
  const give = { kind: 'server', address, password, keepPassword: false, label: 'staging', make: false };
  const { id } = v.parse(DesignDatabase, (await ask('POST', `trees/${tree.id}/databases`, give)).body);
  const at = `trees/${tree.id}/databases/${id}`;
  const plan = async () =>
    v.parse(ChangesPlanned, (await ask('POST', `${at}/plan`, { goal: 'text', agreed: [], powers: false })).body);
  const carriedOut = async () => {
    const planned = await plan();
    if (!planned.ok) throw new Error(planned.problem);
    const wish = { plan: planned.plan, name: 'a change', allowLoss: true, typed: called };
    return v.parse(PlanApplied, (await ask('POST', `${at}/apply`, wish)).body);
  };
  expect(await carriedOut()).toMatchObject({ kind: 'applied' });
  await ask('PUT', `trees/${tree.id}/text`, {
    text: `${text}  town  text(40) optional\n  check named: name <> 'nobody'\n`,
    basedOn: 1,
  });
  expect(await carriedOut()).toMatchObject({ kind: 'applied' });
  expect(await plan()).toMatchObject({ ok: true, changes: [] });
  // What is made keeps its own way, whatever the database's is: two names that differ in their case alone are two.
  expect(await all.execute([`insert into ${called}.makers (name) values ('Łoś'), ('łoś'), ('LOS')`])).toMatchObject({ ok: true });
  await all.execute([`drop database ${called}`]);
  await all.close();
});
