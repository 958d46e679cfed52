import { spawn, spawnSync } from 'node:child_process';
import { copyFileSync, existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { openMariadb, openPostgres } from '../engines/index.js';
import { COMMAND } from '../tests/command.js';
import { temporaryFolder } from '../tests/database.js';
import { addressOf } from '../tests/engines.js';
import { WALLED_LIBRARY } from '../tests/walled-library.js';

/** Where the demo states the rule that some of its rows break. */
const RULE_LINE =
  readFileSync('demo/library.kin', 'utf8')
    .split('\n')
    .findIndex((line) => line.includes('rule bought_by_then')) + 1;

const folder = temporaryFolder();
const at = (name: string) => join(folder.path, name);

/** Runs the command as a person does: another process, its two outputs apart. */
function familyTree(...args: string[]): { out: string; err: string; code: number | null } {
  return familyTreeWith({}, ...args);
}

function familyTreeWith(
  env: Readonly<Record<string, string>>,
  ...args: string[]
): { out: string; err: string; code: number | null } {
  const { stdout, stderr, status } = spawnSync(process.execPath, [...COMMAND, ...args], {
    encoding: 'utf8',
    env: { ...process.env, ...env },
  });
  return { out: stdout, err: stderr, code: status };
}

beforeAll(() => {
  copyFileSync('demo/library.kin', at('library.kin'));
  const made = familyTree('make', at('library.kin'), at('library.db'));
  if (made.code !== 0) throw new Error(made.err);
});
afterAll(() => folder.remove());

describe('check', () => {
  test('ends with 0 where nothing is wrong', () => {
    const { out, err, code } = familyTree('check', at('library.kin'));
    expect(out).toMatch(/^\S+library\.kin:\d+:1: note: relation tagging: its triggers rest on each connection.*\n$/);
    expect({ err, code }).toEqual({ err: '', code: 0 });
  });

  test('tells line and column, and ends with 1 on errors', () => {
    writeFileSync(at('wrong.kin'), 'entity Loan\n  id integer key\n  due dte\n');
    const { out, code } = familyTree('check', at('wrong.kin'));
    expect(out).toMatch(/wrong\.kin:3:7: error: Expected a type after due, found dte/);
    expect(code).toBe(1);
    const [finding] = JSON.parse(familyTree('check', at('wrong.kin'), '--json').out) as {
      line: number;
      column: number;
      weight: string;
    }[];
    expect(finding).toMatchObject({ line: 3, column: 7, weight: 'error' });
  });

  test('looks at the rows of a database where one is named, and names some that break a rule', () => {
    const { out, code } = familyTree('check', at('library.kin'), '--db', at('library.db'));
    expect(out).toMatch(
      /\n\S+library\.kin:\d+:3: error: Loan: 3 rows break the rule bought_by_then, “Nothing is lent before it is bought”\. They are Loan\(\d+\)(; Loan\(\d+\)){2}\.\n$/,
    );
    expect(out).toContain(`library.kin:${RULE_LINE}:3: error: Loan:`);
    expect(code).toBe(1);
    const findings = JSON.parse(familyTree('check', at('library.kin'), '--db', at('library.db'), '--json').out) as object[];
    expect(findings.at(-1)).toMatchObject({ code: 'broken-rule', line: RULE_LINE, weight: 'error' });
  });

  test('says of rows that cannot be asked why, and where', () => {
    const text = readFileSync(at('library.kin'), 'utf8').replace('in pieces', 'in melodies');
    writeFileSync(at('elsewhere.kin'), text);
    const { out, code } = familyTree('check', at('elsewhere.kin'), '--db', at('library.db'));
    expect(out).toMatch(/elsewhere\.kin:\d+:\d+: error: The rows could not be asked: .*melodies/);
    expect(out).toContain('Loan: 3 rows break the rule');
    expect(code).toBe(1);
  });

  test('a file that is not there is said', () => {
    expect(familyTree('check', at('nowhere.kin'))).toMatchObject({ err: `${at('nowhere.kin')} is not there.\n`, code: 1 });
  });
});

describe('what is given wrongly', () => {
  test('nothing but a SQLite database is ever replaced, and arguments that were exchanged are told', () => {
    const before = readFileSync(at('library.kin'), 'utf8');
    const exchanged = familyTree('make', at('library.db'), at('library.kin'), '--force');
    expect(exchanged).toMatchObject({ code: 1 });
    expect(exchanged.err).toContain('is a SQLite database, and a .kin text is wanted there');
    writeFileSync(at('notes.txt'), 'mine');
    const onText = familyTree('make', at('library.kin'), at('notes.txt'), '--force');
    expect(onText).toMatchObject({ code: 1 });
    expect(onText.err).toContain('nothing else is ever replaced');
    expect([readFileSync(at('notes.txt'), 'utf8'), readFileSync(at('library.kin'), 'utf8')]).toEqual(['mine', before]);
  });

  test.each([
    [['run', 'library.kin', 'overdue', '--db', 'library.db', '--limit', '-3'], 'Write a whole number from 1 on.'],
    [['check', 'library.kin', '--db', 'library.db', '--timeout', 'soon'], 'Write seconds'],
    [['copy', 'library.kin', 'library.db', 'few.db', '--rows', '1.5'], 'Write a whole number from 1 on.'],
    [['serve', '--port', '70000'], 'Write a port'],
    [['import', 'library.db', '--table', 'loans'], '--table is for a server’s database'],
    [['check', 'library.kin', '--db', 'elsewhere://me@localhost/x'], 'names no engine that is known here'],
  ])('%s', (args, told) => {
    const { err, out, code } = familyTree(...args.map((arg) => (/\.(kin|db)$/.test(arg) ? at(arg) : arg)));
    expect(`${err}${out}`).toContain(told);
    expect(code).toBe(1);
  });

  test('a parameter that a query does not have is named, with the nearest', () => {
    const run = (...args: string[]) => familyTree('run', at('library.kin'), ...args, '--db', at('library.db')).err;
    expect(run('overdue_by_branch', '--param', 'barnch=1')).toContain('The query has no parameter barnch. Did you mean branch?');
  });

  test('a query for one row without an answer says what it was asked with', () => {
    const query = 'from Player\nwhere name = :name\none';
    const { err } = familyTree(
      ...['run', at('library.kin'), query, '--declare', 'name text', '--param', 'name=Nobody', '--db', at('library.db')],
    );
    expect(err).toBe("The query asks for one Player, and there is none where name = :name, with name = 'Nobody'.\n");
  });

  test('a server that is not there is told once, and not for each question', () => {
    const { out } = familyTree('check', at('library.kin'), '--db', 'postgres://me@localhost:9/shop');
    expect(out.match(/cannot be reached/g)).toHaveLength(1);
    expect(out).toContain('postgres://me@localhost:9/shop cannot be reached: nothing listens there.');
  });
});

test('an address of SQLite is a file for every command', () => {
  expect(familyTree('make', at('library.kin'), `sqlite:${at('named.db')}`).code).toBe(0);
  expect(existsSync(at('named.db'))).toBe(true);
});

test('a text comes from standard input where a dash is named, and goes to standard output', () => {
  const piped = (command: string, input: string) =>
    spawnSync(process.execPath, [...COMMAND, command, '-'], { input, encoding: 'utf8' });
  expect(piped('format', 'entity Loan\n   id   integer key\n').stdout).toBe('entity Loan\n  id  integer key\n');
  expect(piped('check', 'entity Loan\n  id  intger key\n').stdout).toContain('\n-:2:7: error: ');
});

test('many findings that say the same are told once, with their lines', () => {
  const entity = (name: string) => `entity ${name}\n  id  integer key\n  password  text(80)\n`;
  writeFileSync(at('secrets.kin'), ['Door', 'Gate', 'Safe', 'Case'].map(entity).join('\n'));
  const { out } = familyTree('check', at('secrets.kin'));
  expect(out).toMatch(
    /^\S+:3:3: warning: Door\.password looks like a secret[^\n]*\n {2}and 3 more of secret-field: lines 7, 11, 15\n$/,
  );
  expect(JSON.parse(familyTree('check', at('secrets.kin'), '--json').out)).toHaveLength(4);
});

test('format writes the one form, and --check only tells', () => {
  writeFileSync(at('loose.kin'), 'entity Loan\n   id   integer key\n');
  expect(familyTree('format', at('loose.kin'), '--check').code).toBe(1);
  expect(familyTree('format', at('loose.kin')).code).toBe(0);
  expect(readFileSync(at('loose.kin'), 'utf8')).toBe('entity Loan\n  id  integer key\n');
  expect(familyTree('format', at('loose.kin'), '--check').code).toBe(0);
});

test('sql prints a script that runs in the sqlite3 shell', () => {
  const { out } = familyTree('sql', at('library.kin'));
  const shell = spawnSync('sqlite3', [at('shell.db')], { input: out, encoding: 'utf8' });
  if (shell.error !== undefined) new Database(at('shell.db')).exec(out).close();
  else expect(shell.stderr).toBe('');
  expect(new Database(at('shell.db')).prepare("select count(*) from sqlite_schema where type = 'table'").pluck().get()).toBe(19);
});

test('of a text with errors nothing is written, unless that is asked for', () => {
  writeFileSync(at('half.kin'), 'entity Hall\n  id  integer key\n  size  intger\n\nentity Loan\n  id  integer key\n');
  const printed = familyTree('sql', at('half.kin'));
  expect(printed).toMatchObject({ out: '', code: 1 });
  expect(printed.err).toMatch(/half\.kin:3:9: error: .*\nNothing was printed\. Mend what is wrong, or add --even-so/);
  expect(familyTree('make', at('half.kin'), at('half.db')).code).toBe(1);
  expect(existsSync(at('half.db'))).toBe(false);
  const evenSo = familyTree('sql', at('half.kin'), '--even-so');
  expect(evenSo.code).toBe(0);
  expect(evenSo.out).toContain('create table loans');
  expect(evenSo.err).toContain('half.kin:3:9: error: ');
  expect(familyTree('make', at('half.kin'), at('half.db'), '--even-so').code).toBe(0);
  expect(existsSync(at('half.db'))).toBe(true);
});

test('a script says at its head what its session has to say, and in which encoding it is written', () => {
  expect(familyTree('sql', at('library.kin')).out).toMatch(
    /^-- Each connection that writes .*\n(-- .*\n)+pragma foreign_keys = on;\npragma recursive_triggers = on;\n\ncreate table/,
  );
  expect(familyTree('sql', at('library.kin'), '--dialect', 'postgres').out).toMatch(/^set client_encoding = 'UTF8';\n/);
  expect(familyTree('sql', at('library.kin'), '--dialect', 'mariadb').out).toMatch(/^set names utf8mb4/);
});

test('make and copy leave one whole file each', () => {
  expect(familyTree('copy', at('library.kin'), at('library.db'), at('some.db'), '--rows', '3').code).toBe(0);
  for (const file of ['library.db', 'some.db']) {
    expect(readdirSync(folder.path).filter((name) => name.startsWith(file))).toEqual([file]);
    const db = new Database(at(file), { readonly: true });
    expect(db.pragma('journal_mode', { simple: true })).toBe('delete');
    db.close();
  }
});

test('make does not replace a database without being told to', () => {
  const { err, code } = familyTree('make', at('library.kin'), at('library.db'));
  expect(err).toContain('add --force');
  expect(code).toBe(1);
  expect(new Database(at('library.db')).prepare('select count(*) from loans').pluck().get()).toBe(1600);
});

describe('do', () => {
  const library = (...more: string[]) => familyTree('do', at('library.kin'), ...more, '--db', at('written.db'));
  beforeAll(() => copyFileSync(at('library.db'), at('written.db')));
  const count = () => new Database(at('written.db'), { readonly: true }).prepare('select count(*) from ensembles').pluck().get();

  test('carries commands out and tells what became of each row; rehearsed, nothing of it stays', () => {
    const before = Number(count());
    const commands = "x = create Ensemble with title 'Night Watch'; update Ensemble(x) with title 'Day Watch'";
    const { out, code } = library(commands, '--rehearse');
    expect(out).toMatch(/^created Ensemble\(\d+\)\n {2}title 'Night Watch' {2}given\n {2}id \d+ {2}engine\n/);
    expect(out).toContain("title 'Day Watch'  given (was 'Night Watch')");
    expect(out).toMatch(/Rehearsed: nothing of it stays\.\n$/);
    expect({ code, count: count() }).toEqual({ code: 0, count: before });
    expect(library(commands).code).toBe(0);
    expect(count()).toBe(before + 1);
  });

  test('refused, it ends with 1, says why, and has written nothing', () => {
    const before = count();
    const commands =
      "create Ensemble with title 'A'; create Loan with borrower Player(1), instrument Instrument(1), due_on '2020-01-01'";
    const { out, err, code } = library(commands, '--log');
    expect({ out, code }).toEqual({ out: '', code: 1 });
    expect(err).toContain('Line 2: A loan ends after it begins. What keeps it: Loan: check due_after_lent. Nothing was written.');
    expect(err).toContain('insert into ensembles (title) values (:title) returning id;');
    expect(library('creat Ensemble').err).toContain('Did you mean create?');
    expect(count()).toBe(before);
  });

  test('takes commands from standard input, and tells all of it as JSON', () => {
    const { stdout, status } = spawnSync(
      process.execPath,
      [...COMMAND, 'do', at('library.kin'), '-', '--db', at('written.db'), '--json', '--log'],
      { encoding: 'utf8', input: "create Ensemble with title 'From a file'\n-- and its only concert\ndelete Player(7)\n" },
    );
    const told = JSON.parse(stdout) as {
      done: boolean;
      lines: { rows: { change: string }[] }[];
      along: unknown[];
      log: unknown[];
    };
    expect(status).toBe(0);
    expect(told).toMatchObject({
      done: true,
      rehearsed: false,
      lines: [{ rows: [{ change: 'created' }] }, { rows: [{ change: 'deleted' }] }],
    });
    expect(told.along.length).toBeGreaterThan(0);
    expect(told.log.length).toBeGreaterThan(1);
  });
});

describe('a database that has rows', () => {
  const text = () => readFileSync(at('library.kin'), 'utf8');
  const rows = (file: string) =>
    new Database(at(file), { readonly: true }).prepare('select * from players order by id').raw().all();

  test('is as its text says, and then there is nothing to do', () => {
    const { out, code } = familyTree('plan', at('library.kin'), at('library.db'));
    expect({ out, code }).toEqual({ out: 'Nothing to do: the database is as the text says.\n', code: 0 });
  });

  test('is asked about, changed by a file of answers, told of, and taken back to the last value', () => {
    copyFileSync(at('library.db'), at('changed.db'));
    writeFileSync(
      at('town.kin'),
      text().replace('  email     text(255) unique', '  home      text(40)\n  email     text(255) unique'),
    );
    const asked = familyTree('plan', at('town.kin'), at('changed.db'));
    expect(asked.out).toContain('? players.home is required, and 180 rows of players would have no value there.');
    expect(asked.out).toMatch(/\n {4}id "1", name "Ines Quill".*\n(?: {4}id .*\n){11} {4}and 168 more\n/);
    expect(asked.code).toBe(2);
    expect(familyTree('apply', at('town.kin'), at('changed.db'), '--name', 'homes').code).toBe(2);

    writeFileSync(at('town.answers'), "value players.home = name || '''s'  -- until they tell\n");
    const answered = ['--answers', at('town.answers')];
    const planned = familyTree('plan', at('town.kin'), at('changed.db'), ...answered);
    expect(planned).toMatchObject({ out: 'safe            players.home is new: varchar(40), required.  180 rows\n', code: 0 });
    expect(familyTree('plan', at('town.kin'), at('changed.db'), '--script', ...answered).out).toContain(
      '-- players: its rows\ninsert into players (id, name, home, email,',
    );
    const back = familyTree('plan', at('town.kin'), at('changed.db'), '--script', 'back', ...answered).out;
    expect(back).toMatch(/^\.bail on[\s\S]*alter table players rename to players_as_it_was;[\s\S]*commit;/);
    const rehearsed = familyTree('apply', at('town.kin'), at('changed.db'), '--name', 'homes', '--rehearse', ...answered).out;
    expect(rehearsed).toMatch(/ ms {2}players: its rows\nplayers:|players: 180 rows before, 180 after\n {2}1\n/);
    expect(rehearsed).toContain('"name":"Ines Quill","home":"Ines Quill\'s"');
    expect(rehearsed).toContain('Loan: 3 rows break the rule bought_by_then');
    expect(familyTree('history', at('changed.db')).out).toBe('Nothing was changed here by this program.\n');
    expect(familyTree('apply', at('town.kin'), at('changed.db'), '--name', 'homes', ...answered).out).toMatch(
      /^Applied as number 1, “homes”: 1 change, \d+ ms.\nAs it was before it stands in \S+changed\.db\.before-1\.\n$/,
    );
    expect(rows('changed.db.before-1')).toEqual(rows('library.db'));
    const db = new Database(at('changed.db'));
    expect(db.prepare('select home from players where id = 1').pluck().get()).toBe('Ines Quill’s'.replace('’', "'"));
    db.close();
    expect(familyTree('plan', at('town.kin'), at('changed.db')).out).toContain('Nothing to do');
    expect(familyTree('history', at('changed.db')).out).toMatch(/^1 {2}\S+ \S+ {2}homes: 1 change.*\n {5}players.home is new/);

    const undo = familyTree('undo', at('changed.db'));
    expect(undo.out).toContain('loses data      players.home goes, with its values.  180 rows, 180 lose a value');
    expect(undo.code).toBe(3);
    expect(familyTree('undo', at('changed.db'), '--allow-loss').code).toBe(0);
    expect(familyTree('plan', at('library.kin'), at('changed.db')).out).toContain('Nothing to do');
    expect(familyTree('history', at('changed.db')).out).toMatch(/takes back number 1[\s\S]*homes, taken back since/);
    expect(rows('changed.db')).toEqual(rows('library.db'));
  }, 600_000);

  test('is changed by numbered scripts, which note themselves, run once, and have a way back', () => {
    copyFileSync(at('library.db'), at('deployed.db'));
    writeFileSync(
      at('halls.kin'),
      text().replace('  town  text(60) optional\n  shown as name', '  town  text(70) optional\n  shown as name'),
    );
    const plan = ['plan', at('halls.kin'), at('deployed.db'), '--into', at('deploy')];
    expect(familyTree(...plan).err).toContain('--name');
    expect(familyTree(...plan, '--name', 'Longer towns!').out).toBe(
      `${at('deploy/0001-longer-towns.sql')}\n${at('deploy/0001-longer-towns-back.sql')}\n`,
    );
    expect(familyTree(...plan, '--name', 'Longer towns!').err).toContain('is there already');
    const run = (script: string) =>
      spawnSync('sqlite3', [at('deployed.db')], { input: readFileSync(at(script)), encoding: 'utf8' });
    expect(run('deploy/0001-longer-towns.sql')).toMatchObject({ status: 0, stderr: '' });
    expect(familyTree('plan', at('halls.kin'), at('deployed.db')).out).toContain('Nothing to do');
    expect(familyTree('history', at('deployed.db')).out).toMatch(/^1 .*Longer towns!: /);
    expect(run('deploy/0001-longer-towns.sql').stderr).toContain('UNIQUE constraint failed');
    expect(rows('deployed.db')).toEqual(rows('library.db'));
    expect(run('deploy/0001-longer-towns-back.sql')).toMatchObject({ status: 0, stderr: '' });
    expect(familyTree('plan', at('library.kin'), at('deployed.db')).out).toContain('Nothing to do');
    expect(familyTree('history', at('deployed.db')).out).toMatch(/takes back number 1[\s\S]*Longer towns!, taken back since/);
  }, 600_000);

  test('is held against what it was when it was changed last', () => {
    copyFileSync(at('library.db'), at('drifted.db'));
    expect(familyTree('drift', at('library.kin'), at('drifted.db')).err).toContain('was never changed from here');
    writeFileSync(
      at('noted.kin'),
      text().replace(
        "  town  text(60) optional\n  shown as name\n  order by name\n  note 'A house",
        "  town  text(70) optional\n  shown as name\n  order by name\n  note 'A house",
      ),
    );
    expect(familyTree('apply', at('noted.kin'), at('drifted.db'), '--name', 'longer towns')).toMatchObject({ code: 0 });
    expect(familyTree('drift', at('noted.kin'), at('drifted.db'))).toMatchObject({
      out: 'Nothing has changed in the database since number 1, “longer towns”.\n',
      code: 0,
    });
    const db = new Database(at('drifted.db'));
    db.exec('alter table branches add column opened text; create table aside (id integer primary key)');
    db.close();
    expect(familyTree('drift', at('noted.kin'), at('drifted.db'))).toMatchObject({
      out: 'branches.opened is new: text, optional.\n',
      code: 1,
    });
    const followed = familyTree('drift', at('noted.kin'), at('drifted.db'), '--as', 'text');
    expect(followed.out).toBe(
      readFileSync(at('noted.kin'), 'utf8').replace(/( {2}town {2}text\(70\) optional\n)/, '$1  opened  text optional\n'),
    );
    writeFileSync(at('followed.kin'), followed.out);
    // All that is left to do is what a text of the notation has checked beside.
    expect(familyTree('plan', at('followed.kin'), at('drifted.db')).out).toMatch(/^safe +The check branches_opened_type.*\n$/);
    expect(familyTree('drift', at('noted.kin'), at('drifted.db'), '--as', 'script')).toMatchObject({
      out: expect.stringContaining('.bail on'),
      code: 0,
    });
    expect(familyTree('drift', at('noted.kin'), at('drifted.db'), '--put-back', 'as it was').out).toContain(
      'Applied as number 2',
    );
    expect(familyTree('drift', at('noted.kin'), at('drifted.db'))).toMatchObject({
      out: 'Nothing has changed in the database since number 2, “as it was”.\n',
      code: 0,
    });
    const after = new Database(at('drifted.db'), { readonly: true });
    expect(after.prepare("select count(*) as tables from sqlite_schema where name = 'aside'").get()).toEqual({ tables: 1 });
    after.close();
  }, 600_000);

  test('a file of answers that says nothing that is known is told with its line', () => {
    writeFileSync(at('wrong.answers'), 'column players.home was\n');
    expect(familyTree('plan', at('library.kin'), at('library.db'), '--answers', at('wrong.answers'))).toMatchObject({
      err: expect.stringContaining('wrong.answers:1: This is written as: column players.full_name was name'),
      code: 1,
    });
  });
});

describe('expectations', () => {
  test('are held against a database by check, end it with 1 where one does not hold, and are reported as JUnit XML', () => {
    const text = readFileSync(at('library.kin'), 'utf8');
    writeFileSync(at('expecting.kin'), `${text}\nexpect partners_of('p1 & <b>"x"')\n  rows 1\n`);
    const report = at('expectations.xml');
    const { out, err, code } = familyTree('check', at('expecting.kin'), '--db', at('library.db'), '--report', report);
    expect(out).toMatch(/error: expect partners_of\('p1 & <b>"x"'\), rows 1: It failed: /);
    expect(err).toContain('7 of 8 expectations held.');
    expect(code).toBe(1);
    const xml = readFileSync(report, 'utf8');
    expect(xml).toContain('tests="8" failures="1" errors="0"');
    expect(xml).toContain(`name="partners_of('p1 &amp; &lt;b&gt;&quot;x&quot;')"`);
    expect(xml).toContain('<failure message="rows 1: It failed:');
    expect(familyTree('check', at('library.kin'), '--report', report).err).toContain('--db');
  });
});

describe('impact', () => {
  const impact = (rows: string, ...more: string[]) =>
    familyTree('impact', at('library.kin'), rows, '--db', at('library.db'), ...more);

  test('tells what a delete would take along and empty, by generation, and touches nothing', () => {
    const { out, err, code } = impact('Ensemble(1)', '--log');
    expect(out).toMatch(/^1 row of Ensemble would be deleted\.\n/);
    expect(out).toMatch(/\n {2}goes along: \d+ rows of Concert, over ensemble \(/);
    expect(out).toMatch(/\n {4}goes along: \d+ rows of setlist, over Concert\n/);
    expect(err).toMatch(/^with gone_ensembles \(id\) as \(/);
    expect(code).toBe(0);
    expect(impact('Ensemble(1)').out).toBe(out);
  });

  test('ends with 1 where the delete would be refused, and says by what', () => {
    const { out, code } = impact('Branch(1)');
    expect(out).toMatch(/\n {2}refuses: \d+ rows of \w+, over \w+, by \w+_fkey/);
    expect(code).toBe(1);
    expect(JSON.parse(impact('Branch(1)', '--json', '--rows', '3').out)).toMatchObject({
      rows: [{ entity: 'Branch', rows: 1 }],
      groups: expect.arrayContaining([expect.objectContaining({ effect: 'refuses', keys: expect.any(Array) })]),
    });
  });

  test('what it cannot tell is said', () => {
    expect(impact("Player[town = 'Ferren']")).toMatchObject({ code: 1, err: expect.stringContaining('rows:1:8: error') });
    expect(impact('Player[id < 0]')).toMatchObject({ code: 0, out: 'No row is meant.\n' });
  });
});

describe('read-log', () => {
  test('tells what an application asks once for each row, and the load in its place; without a statement, what it reads', () => {
    const asked = Array.from({ length: 20 }, (_, index) => `select id, name from players where id = ${index} limit 1`);
    writeFileSync(at('app.log'), ['select * from loans order by due_on', ...asked].join('\n'));
    const { out } = familyTree('read-log', at('library.kin'), at('app.log'));
    expect(out).toContain('21 statements of 2 shapes.');
    expect(out).toContain('20 times: Loan.borrower (borrowing). In the query of Loan: load borrower');
    const told = JSON.parse(familyTree('read-log', at('library.kin'), at('app.log'), '--json').out) as { statements: number };
    expect(told.statements).toBe(21);
    writeFileSync(at('empty.log'), 'nothing here\n');
    expect(familyTree('read-log', at('library.kin'), at('empty.log')).out).toContain('There is no statement in it.');
    expect(familyTree('read-log', at('library.kin'), at('nowhere.log')).err).toContain('nowhere.log');
  });
});

describe('run', () => {
  test('holds what a page reads against what is loaded', () => {
    const asked = ['run', at('library.kin'), 'from Loan; limit 30', '--db', at('library.db'), '--reads', 'borrower.name, due_on'];
    expect(familyTree(...asked).out).toContain(
      '31 statements as the page reads it, 301 with ten times the rows; with “load borrower (name)”: 2; same answer.',
    );
    expect(familyTree(...asked.slice(0, -1), 'borrower.shoe').err).toContain('Player has no field or role called shoe');
    expect(JSON.parse(familyTree(...asked, '--json').out)).toMatchObject({ asRead: 31, loaded: 2 });
  });

  test('says what its loads cost in each way, as a table or as JSON with the SQL of each', () => {
    const asked = ['run', at('library.kin'), 'from Player; load loans (due_on); limit 20', '--db', at('library.db'), '--ways'];
    const { out } = familyTree(...asked);
    expect(out).toMatch(/^Load by \w+: \d+ statement/);
    for (const way of ['batch', 'join', 'json']) expect(out).toMatch(new RegExp(`^${way} .* equal$`, 'm'));
    expect(out).toMatch(/^row +21 .* equal$/m);
    const told = JSON.parse(familyTree(...asked, '--json').out) as {
      ways: { way: string; problem: string | null; sql: string[] }[];
    };
    expect(told.ways.map(({ way, problem }) => [way, problem])).toEqual([
      ['batch', null],
      ['join', null],
      ['json', null],
      ['row', null],
    ]);
    expect(told.ways[2]?.sql[0]).toContain('json_group_array');
    expect(familyTree(...asked.slice(0, 2), 'from Player; load nothing', ...asked.slice(3)).err).toContain(
      'role of Player called nothing',
    );
  });

  test('a saved query: the answer to one output, the log to the other', () => {
    const { out, err, code } = familyTree(
      'run',
      at('library.kin'),
      'overdue_by_branch',
      '--db',
      at('library.db'),
      '--param',
      'branch=north',
      '--json',
      '--log',
    );
    const rows = JSON.parse(out) as { borrower: { branch: { name: string } } }[];
    expect(code).toBe(0);
    expect(rows.length).toBeGreaterThan(5);
    expect(new Set(rows.map((row) => row.borrower.branch.name))).toEqual(new Set(['North Quay']));
    expect(err).toMatch(/-- 1\nselect loans\.id[\s\S]*-- :branch = 1\n-- \d+ rows, [\d.]+ ms, root/);
    expect(err.match(/^-- \d+$/gm)?.length).toBe(5);
  });

  test.each([
    "from Player\nwhere email = 'ines@example.org'\nload branch (name)",
    "from Player; where email = 'ines@example.org'; load branch (name)",
  ])('a query’s text, in lines or on one: %j', (query) => {
    const { out } = familyTree('run', at('library.kin'), query, '--db', at('library.db'), '--json');
    expect(JSON.parse(out)).toMatchObject([{ name: 'Ines Quill', branch: { name: 'North Quay' } }]);
  });

  test('a query’s text with parameters of its own', () => {
    const args = [
      'run',
      at('library.kin'),
      'from Player\nwhere branch = :where\ncount',
      '--db',
      at('library.db'),
      '--json',
      '--param',
      'where=north',
    ];
    expect(JSON.parse(familyTree(...args, '--declare', 'where Branch').out)).toEqual([{ count: expect.any(Number) }]);
    expect(familyTree(...args).err).toContain('there is no parameter :where');
    expect(familyTree(...args, '--declare', 'where').err).toContain('as in “branch Branch, since date”');
  });

  test('on whose behalf it is asked: the walls of the text stand for whoever that is', () => {
    const query = 'from Remark; load author (name); order by id';
    const asked = (...as: string[]) => familyTree('run', at('library.kin'), query, '--db', at('library.db'), '--json', ...as);
    const hidden = (...as: string[]) =>
      (JSON.parse(asked(...as).out) as { author: object }[]).filter(({ author }) => 'hidden' in author).length;
    expect(hidden()).toBe(0);
    expect(hidden('--as', 'nobody')).toBe(420);
    expect(hidden('--as', 'Player(2)')).toBeGreaterThan(200);
    expect(hidden('--as', 'Player(2)')).toBeLessThan(420);
    const why = (row: string, as: string) => familyTree('why', at('library.kin'), row, '--as', as, '--db', at('library.db'));
    expect(why('Player(1)', 'Player(2)')).toMatchObject({ code: 1, out: expect.stringContaining('branch = me.branch: false') });
    expect(why('Player(2)', 'Player(2)')).toMatchObject({
      code: 0,
      out: expect.stringContaining('Player(2): seen, and may be changed.'),
    });
    expect(asked('--as', 'Branch(1)')).toMatchObject({ code: 1, err: expect.stringContaining('is a row of Player') });
  });

  test('walls are printed as views and policies, with what those cannot say above them', () => {
    writeFileSync(at('plain.kin'), "tree 'Plain'\n\nentity Bow\n  id  integer key\n");
    const { out, code } = familyTree('sql', at('library.kin'), '--walls', 'views', '--dialect', 'postgres');
    expect(code).toBe(0);
    expect(out).toMatch(/^-- A session says who is at work: set at_work\.key = /);
    expect(out).toContain('create view seen_loans as');
    const policies = (dialect: string) => familyTree('sql', at('library.kin'), '--walls', 'policies', '--dialect', dialect);
    expect(policies('postgres').out).toContain('alter table loans enable row level security');
    expect(policies('sqlite')).toMatchObject({ code: 1, err: expect.stringContaining('as views') });
    expect(familyTree('sql', at('plain.kin'), '--walls', 'views')).toMatchObject({
      code: 1,
      err: expect.stringContaining('no wall'),
    });
  });

  test('an audit ends with 0 and the number of ways tried; with a wall taken away with 1, the row and the line that closes it', () => {
    writeFileSync(at('walled.kin'), WALLED_LIBRARY);
    expect(familyTree('make', at('walled.kin'), at('walled.db')).code).toBe(0);
    const held = familyTree('audit', at('walled.kin'), at('walled.db'), '--json');
    expect({ code: held.code, err: held.err }).toEqual({ code: 0, err: '' });
    const told = JSON.parse(held.out) as { verdict: string; tried: number; leaked: number; ways: Record<string, unknown> };
    expect(told.verdict).toBe(`No way round found; ${told.tried} ways tried.`);
    expect(told.tried).toBeGreaterThan(400);
    expect(Object.keys(told.ways)).toEqual(
      expect.arrayContaining(['find by key', 'load', 'drop-down', 'delete by key', 'import']),
    );
    writeFileSync(at('open.kin'), WALLED_LIBRARY.replace('  Loan where borrower.branch = me.branch\n', ''));
    const open = familyTree('audit', at('open.kin'), at('walled.db'), '--read-only', '--report', at('audit.md'));
    expect(open.code).toBe(1);
    expect(open.out).toContain('No wall stands on Loan: Player(1) reads and changes Loan(3)');
    expect(open.out).toContain('Write “Loan where borrower.branch = me.branch” into wall own_branch.');
    expect(open.out).not.toContain('delete by key');
    expect(open.out.trimEnd().split('\n').at(-1)).toMatch(/^\d+ ways tried: 1 place is left open\.$/);
    expect(readFileSync(at('audit.md'), 'utf8')).toContain('No wall stands on Loan');
  });

  test('a design leaves in each format, the same bytes each time, with real rows as examples where a database is given', () => {
    writeFileSync(at('walled.kin'), WALLED_LIBRARY);
    expect(familyTree('make', at('walled.kin'), at('leaves.db'), '--force').code).toBe(0);
    const told = (...flags: string[]) => familyTree('export', at('walled.kin'), ...flags);
    for (const format of ['kin', 'sql', 'openapi', 'json-schema', 'typescript', 'markdown', 'svg', 'dot', 'model']) {
      const first = told('--format', format);
      expect({ format, code: first.code, same: first.out === told('--format', format).out }).toEqual({
        format,
        code: 0,
        same: true,
      });
    }
    expect(told('--format', 'sql', '--dialect', 'mariadb').out).toContain('varchar');
    expect(told('--format', 'svg', '--kin', 'Nothing')).toMatchObject({
      code: 1,
      err: expect.stringContaining('no entity Nothing'),
    });
    const out = at('walled.openapi.json');
    expect(told('--format', 'openapi', '--db', at('leaves.db'), '--out', out)).toMatchObject({ code: 0, out: '' });
    expect(readFileSync(out, 'utf8')).toContain('"example"');
  }, 120_000);

  test('a picture of dots is drawn without a browser, the same each time, also of close kin and of letters of Asia', () => {
    writeFileSync(at('far.kin'), `tree '楽器の図書館'\n\nentity "会館 🎻" in halls\n  id  integer key\n`);
    const drawn = (file: string, ...flags: string[]) => {
      const { code, err } = familyTree('export', at(file), '--format', 'png', '--out', at('map.png'), ...flags);
      expect([code, err]).toEqual([0, '']);
      const bytes = readFileSync(at('map.png'));
      expect(bytes.subarray(1, 4).toString()).toBe('PNG');
      // Its head tells how wide and high it is (PNG, 11.2.1).
      return { bytes, width: bytes.readUInt32BE(16), height: bytes.readUInt32BE(20) };
    };
    const whole = drawn('library.kin');
    expect(whole.width).toBeGreaterThan(1000);
    expect(drawn('library.kin').bytes.equals(whole.bytes)).toBe(true);
    expect(drawn('far.kin').bytes.length).toBeGreaterThan(500);
    expect(drawn('library.kin', '--kin', 'Player', '--dark').height).toBeLessThan(whole.height);
  });

  test('whoever reads the output may have enough of it; where it cannot be written, that is said', () => {
    const line = [process.execPath, ...COMMAND, 'export', at('library.kin'), '--format', 'model']
      .map((part) => `'${part}'`)
      .join(' ');
    const piped = spawnSync('/bin/sh', ['-c', `${line} | head -c 20`], { encoding: 'utf8' });
    expect([piped.stdout, piped.stderr]).toEqual(['{\n  "format": "famil', '']);
    const full = spawnSync('/bin/sh', ['-c', `${line} > /dev/full`], { encoding: 'utf8' });
    expect([full.status, full.stderr]).toEqual([1, expect.stringMatching(/^The output could not be written: ENOSPC[^\n]*\n$/)]);
  });

  test('a document is written with its pictures beside it, and leads to each', () => {
    expect(familyTree('export', at('library.kin'), '--format', 'markdown', '--out', at('library.md')).code).toBe(0);
    const links = Array.from(
      readFileSync(at('library.md'), 'utf8').matchAll(/\]\((library-pictures\/[^)]+)\)/g),
      ([, link]) => link ?? '',
    );
    expect(links.length).toBeGreaterThan(10);
    expect(links.filter((link) => !existsSync(at(decodeURIComponent(link))))).toEqual([]);
    // On the terminal there is no place for them.
    expect(familyTree('export', at('library.kin'), '--format', 'markdown').out).not.toContain('![');
  });

  test('a model is read where a text is, and its text comes out again; one that was changed, or would be written to, is refused', () => {
    expect(familyTree('export', at('library.kin'), '--format', 'model', '--out', at('library.model.json')).code).toBe(0);
    expect(familyTree('export', at('library.model.json'), '--format', 'kin').out).toBe(readFileSync(at('library.kin'), 'utf8'));
    expect(familyTree('sql', at('library.model.json')).out).toBe(familyTree('sql', at('library.kin')).out);
    const json = readFileSync(at('library.model.json'), 'utf8');
    writeFileSync(at('changed.model.json'), json.replace('"onDelete": "cascade"', '"onDelete": "restrict"'));
    expect(familyTree('check', at('changed.model.json'))).toMatchObject({
      code: 1,
      err: expect.stringContaining('/onDelete') as string,
    });
    expect(familyTree('format', at('library.model.json'))).toMatchObject({
      code: 1,
      err: expect.stringContaining('is a model') as string,
    });
    expect(readFileSync(at('library.model.json'), 'utf8')).toBe(json);
  });

  test('the live endpoint is served without the page, over the database that is named', async () => {
    writeFileSync(at('walled.kin'), WALLED_LIBRARY);
    expect(familyTree('make', at('walled.kin'), at('served.db'), '--force').code).toBe(0);
    expect(familyTree('serve', '--live', at('walled.kin'))).toMatchObject({ code: 1, err: expect.stringContaining('--db') });
    const serving = spawn(process.execPath, [
      ...COMMAND,
      'serve',
      '--live',
      at('walled.kin'),
      '--db',
      at('served.db'),
      '--port',
      '0',
    ]);
    try {
      const address = await new Promise<string>((done) => {
        serving.stdout.on('data', (part: Buffer) => {
          const [found] = /http:\S+/.exec(part.toString()) ?? [];
          if (found !== undefined) done(found);
        });
      });
      const loans = (await (await fetch(`${address}/loans`, { headers: { actor: 'Player(1)' } })).json()) as { data: unknown[] };
      expect(loans.data).toHaveLength(2);
    } finally {
      serving.kill();
    }
  }, 60_000);

  test('an audit of what a script has put into the database asks in its sessions, and says what it lacks', () => {
    const by = (...flags: string[]) => familyTree('audit', at('walled.kin'), at('walled.db'), ...flags);
    const held = by('--held-by', 'views', '--json');
    const told = JSON.parse(held.out) as { verdict: string; tried: number; neverTried: readonly string[] };
    expect({ code: held.code, verdict: told.verdict }).toEqual({
      code: 0,
      verdict: `No way round found; ${told.tried} ways tried.`,
    });
    expect(told.neverTried.join(' ')).toContain('The tables themselves');
    expect(by('--held-by', 'policies')).toMatchObject({ code: 1, err: expect.stringContaining('--role') });
    expect(by('--held-by', 'policies', '--role', 'app')).toMatchObject({ code: 1, err: expect.stringContaining('as views') });
    expect(by('--role', 'app')).toMatchObject({ code: 1, err: expect.stringContaining('--held-by') });
  });

  test('commands are done on behalf of somebody, who finds nothing behind their walls', () => {
    const done = (as: string, commands: string) =>
      familyTree('do', at('library.kin'), commands, '--db', at('library.db'), '--rehearse', '--as', as);
    expect(done('Player(2)', "update Player(1) with name 'Taken'")).toMatchObject({
      code: 1,
      err: expect.stringContaining('there is no such row of Player'),
    });
    expect(done('Player(1)', "update me with name 'Ines'")).toMatchObject({ code: 0, out: expect.stringContaining('updated') });
    const remark = done('Player(2)', "create Remark with body 'Kept well', subject Hall(corn)");
    expect(remark.out).toMatch(/author 2 {2}pin/);
    const reached = familyTree('impact', at('library.kin'), 'Player(1)', '--db', at('library.db'), '--as', 'Player(2)');
    expect(reached.out).not.toContain('Loan');
  });

  test('what is wrong is said with a way out, and ends with 1', () => {
    expect(familyTree('run', at('library.kin'), 'overdue_by_branh', '--db', at('library.db'))).toMatchObject({
      err: 'Query overdue_by_branh is not in the text. Did you mean overdue_by_branch?\n',
      code: 1,
    });
    expect(familyTree('run', at('library.kin'), 'from Loan\nwhere x', '--db', at('library.db')).err).toMatch(
      /^query:2:7: error: There is no field, role or scope of Loan called x/,
    );
    expect(
      familyTree('run', at('library.kin'), 'overdue_by_branch', '--db', at('nowhere.db'), '--param', 'branch=1').err,
    ).toContain('cannot be opened');
  });

  test('the row limit says that it cut', () => {
    const { out, err } = familyTree('run', at('library.kin'), 'from Loan', '--db', at('library.db'), '--json', '--limit', '3');
    expect((JSON.parse(out) as unknown[]).length).toBe(3);
    expect(err).toContain('Cut at 3 rows: there are more.');
  });
});

test('import writes a text to one output and the report to the other, and only reads the file', () => {
  const before = readFileSync(at('library.db'));
  const { out, err, code } = familyTree('import', at('library.db'));
  expect(code).toBe(0);
  expect(out).toContain('Player knows many Ensemble as ensembles');
  expect(out).toContain(': due_on >= lent_on');
  expect(err).toMatch(/^19 tables with 92 columns and 22 foreign keys: /);
  expect(readFileSync(at('library.db'))).toEqual(before);
  writeFileSync(at('imported.kin'), out);
  expect(familyTree('check', at('imported.kin')).code).toBe(0);
  const loaded = familyTree(
    'run',
    at('imported.kin'),
    'from Branch\nload players (name)\n  loans (due_on)',
    '--db',
    at('library.db'),
    '--json',
  );
  expect((JSON.parse(loaded.out) as { players: { loans: unknown[] }[] }[])[0]?.players[0]?.loans.length).toBeGreaterThan(0);
  expect(familyTree('import', at('library.kin')).err).toContain('is no SQLite database');
});

describe('rows in files', () => {
  test('are written to one output and put in from a file; where a line is refused nothing stays, and it ends with 1', () => {
    copyFileSync(at('library.db'), at('files.db'));
    const rows = familyTree('export-rows', at('library.kin'), 'Tag[id < 3]', '--db', at('files.db'), '--columns', 'word');
    expect(rows).toMatchObject({ code: 0, err: '2 rows.\n', out: expect.stringMatching(/^word\r\n\S.*\r\n\S.*\r\n$/) });
    writeFileSync(at('tags.csv'), `${rows.out}felt\r\n`);
    const refused = familyTree('import-rows', at('library.kin'), 'Tag', at('tags.csv'), '--db', at('files.db'));
    expect(refused).toMatchObject({
      code: 1,
      out: expect.stringContaining('3 lines: 1 put in, 2 refused.\nNothing was written.'),
    });
    expect(refused.err).toMatch(/^word → word\nline 2: .*It is Tag\(1\)/);
    const there = ['--there', 'skip', '--json'];
    const done = familyTree('import-rows', at('library.kin'), 'Tag', at('tags.csv'), '--db', at('files.db'), ...there);
    expect(JSON.parse(done.out)).toMatchObject({ done: true, created: 1, skipped: 2, refused: 0, refusals: [] });
    expect(done.code).toBe(0);
  });

  test('what a column is can be said; what no column is, and a file that is none, is told with a way out', () => {
    writeFileSync(at('odd.csv'), 'label\nA\n');
    const run = (...more: string[]) =>
      familyTree('import-rows', at('library.kin'), 'Tag', at('odd.csv'), '--db', at('library.db'), '--rehearse', ...more);
    expect(run('--map', 'label=word')).toMatchObject({ code: 0, out: '1 line: 1 put in.\nRehearsed: nothing of it stays.\n' });
    expect(run()).toMatchObject({ code: 1, err: expect.stringContaining('Every column is left out') });
    expect(run('--map', 'labl=word').err).toContain('write COLUMN=USE with a column of the file, which are label');
    expect(run('--map', 'label=wrd').err).toContain('Tag has nothing called “wrd”');
    const none = familyTree('import-rows', at('library.kin'), 'Tag', at('none.csv'), '--db', at('library.db'));
    expect(none).toMatchObject({ code: 1, err: expect.stringContaining('There is no file') });
    const wrong = familyTree('export-rows', at('library.kin'), 'Tags', '--db', at('library.db'));
    expect(wrong).toMatchObject({ code: 1, err: expect.stringContaining('Write an entity') });
  });
});

describe('SQL that a text states', () => {
  const text = `tree 'Stated'\n\nentity A in mine\n  id integer key\n  kept 'create index late on mine (id desc)'\n\nsample A 3\n`;

  test('is shown before it is run, and run once it is agreed to', () => {
    writeFileSync(at('stated.kin'), text);
    const asked = familyTree('make', at('stated.kin'), at('stated.db'));
    expect(asked.code).toBe(1);
    expect(asked.err).toContain('line 5\n  create index late on mine (id desc)');
    expect(asked.err).toContain('add --agree');
    expect(existsSync(at('stated.db'))).toBe(false);
    expect(familyTree('make', at('stated.kin'), at('stated.db'), '--agree').code).toBe(0);
    expect(existsSync(at('stated.db'))).toBe(true);
  });
});

test('a server that is told to end closes everything, and leaves no lock', async () => {
  const data = at('served');
  const served = spawn(process.execPath, [...COMMAND, 'serve', '--data', data, '--port', '4397'], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((resolve) => served.stdout.once('data', () => resolve()));
  const headers = { 'content-type': 'application/json' };
  const body = JSON.stringify({ from: 'demo' });
  await fetch('http://127.0.0.1:4397/api/trees', { method: 'POST', headers, body });
  expect(existsSync(join(data, 'family-tree.lock'))).toBe(true);
  const ended = new Promise<number | null>((resolve) => served.once('exit', resolve));
  served.kill('SIGINT');
  expect(await ended).toBe(0);
  expect(existsSync(join(data, 'family-tree.lock'))).toBe(false);
  expect(readdirSync(data).filter((name) => name.includes('scratch'))).toEqual([]);
}, 600_000);

test.each(['check', 'format', 'sql', 'make', 'plan', 'apply', 'undo', 'drift', 'history', 'run', 'import', 'copy', 'serve'])(
  '%s --help shows an example',
  (command) => {
    expect(familyTree(command, '--help').out).toMatch(new RegExp(`Example:\\n {2}\\$ family-tree ${command}`));
  },
);

test('import follows a database that has changed, with what people wrote in the text', () => {
  const script = 'create table halls (id integer primary key, name varchar(40) not null);\n';
  writeFileSync(at('house.sql'), script);
  const { out, err, code } = familyTree('import', at('house.sql'));
  expect(code).toBe(0);
  expect(err).toContain('Of the script’s statements 1 ran.');
  writeFileSync(at('house.kin'), out.replace('entity Hall', "entity Hall\n  note 'Where we play'"));
  expect(familyTree('import', at('house.sql'), '--follow', at('house.kin')).err).toBe('Nothing has changed in the database.\n');
  writeFileSync(
    at('house.sql'),
    `${script.replace('40', '80')}create table doors (id integer primary key, hall_id integer references halls (id));\n`,
  );
  const next = familyTree('import', at('house.sql'), '--follow', at('house.kin'));
  expect(next.out).toContain("note 'Where we play'");
  expect(next.out).toMatch(/name +text\(80\)/);
  expect(next.out).toContain('Door knows at most one Hall as hall');
  expect(next.err).toContain('changed: entity Hall: name');
  writeFileSync(at('broken.sql'), 'nothing here');
  expect(familyTree('import', at('broken.sql'))).toMatchObject({ code: 1, out: '' });
});

describe.each(['postgres', 'mariadb'] as const)('on %s', (name) => {
  const { password } = inject('servers');
  const env = { FAMILY_TREE_PASSWORD: password };
  const database = `cli_${name}`;
  const address = () => `${inject('servers')[name].replace(/\/[^/]*$/, '')}/${database}`;
  const admin = async (...statements: string[]) => {
    const open = name === 'postgres' ? openPostgres : openMariadb;
    const engine = open({
      address: addressOf(inject('servers')[name]),
      password,
      place: null,
      label: name,
      milliseconds: 20_000,
    });
    expect(await engine.execute(statements)).toMatchObject({ ok: true });
    await engine.close();
  };

  test('a text is made in an empty database, asked there, and brought in again as it was', async () => {
    await admin(`drop database if exists ${database}`, `create database ${database}`);
    expect(familyTreeWith(env, 'make', at('library.kin'), address()).err).toMatch(/19 tables with rows, 4038 rows/);
    const there = familyTreeWith(env, 'run', at('library.kin'), 'from Branch\nload players (name)', '--db', address(), '--json');
    const file = familyTree('run', at('library.kin'), 'from Branch\nload players (name)', '--db', at('library.db'), '--json');
    expect(JSON.parse(there.out)).toEqual(JSON.parse(file.out));
    const imported = familyTreeWith(env, 'import', address());
    expect(imported).toMatchObject({ code: 0 });
    expect(imported.out).toContain(`dialect ${name}`);
    expect(imported.err).not.toContain('Not carried');
    // A sample of its rows keeps its relations: foreign keys are on in the file that is made.
    writeFileSync(at(`${name}.kin`), imported.out);
    const copied = familyTreeWith(env, 'copy', at(`${name}.kin`), address(), at(`${name}-sample.db`), '--rows', '20');
    expect(copied.err).toMatch(/\d+ rows of 19 tables/);
    const sample = new Database(at(`${name}-sample.db`), { readonly: true });
    expect(sample.pragma('foreign_key_check')).toEqual([]);
    const count = (table: string) => sample.prepare(`select count(*) from ${table}`).pluck().get() as number;
    expect([count('branches'), count('loans') >= 20, count('players') > 20, count('players') < 180]).toEqual([
      5,
      true,
      true,
      true,
    ]);
    sample.close();
    // Nothing that is there is changed.
    expect(familyTreeWith(env, 'make', at('library.kin'), address()).err).toContain('has 19 tables already');
    await admin(`drop database ${database}`);
  });

  test('a password in an address is refused before anybody else can read it', () => {
    const told = familyTree('import', address().replace('keeper@', 'keeper:secret@'));
    expect(told.code).toBe(1);
    expect(told.err).toContain('FAMILY_TREE_PASSWORD');
    expect(told.err).not.toContain('secret');
  });

  test('its script is written in its own SQL', () => {
    const { out } = familyTree('sql', at('library.kin'), '--dialect', name);
    expect(out).toContain(name === 'postgres' ? 'generated by default as identity' : 'auto_increment');
  });
});
