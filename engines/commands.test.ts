import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { type DoOutcome, doCommands, makeDatabase, runQuery } from '../services/index.js';
import { temporaryFolder } from '../tests/database.js';
import { type EngineName, type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';
import { type Engine, openSqlite } from './index.js';

const LIBRARY = readFileSync('demo/library.kin', 'utf8');
const NAMES: readonly EngineName[] = ['sqlite', 'postgres', 'mariadb', 'embedded'];
const NOW = '2031-04-12T09:00:00.000000Z';

let engines: Engines;
const trees: MadeTree[] = [];

beforeAll(async () => {
  engines = openEngines(inject('servers'));
  for (const name of NAMES) trees.push(await makeOn(engines, name, LIBRARY));
}, 600_000);
afterAll(async () => {
  for (const { database } of trees) await database.remove();
  await engines.close();
});

type Tree = Pick<MadeTree, 'design' | 'made'> & { readonly database: { readonly engine: Engine } };

function carryOut({ design, database, made }: Tree, text: string, rehearse = false): Promise<DoOutcome> {
  return doCommands(design, database.engine, { text, sampleKeys: made.sampleKeys, madeHere: true, now: NOW, rehearse });
}

/** What became of each row, as `created Player(1)`; or why nothing was done. */
async function told(tree: Tree, text: string, rehearse = false): Promise<readonly string[]> {
  const outcome = await carryOut(tree, text, rehearse);
  if (!outcome.ok) return [...outcome.findings.map(({ message }) => message), ...outcome.problems];
  return outcome.carried.lines.flatMap(({ rows }) =>
    rows.map(({ change, entity, link }) => `${change} ${entity}${link === null ? '' : `.${link.role}: ${link.entity}`}`),
  );
}

async function asked({ design, database, made }: Tree, text: string): Promise<readonly Record<string, unknown>[]> {
  const query = { kind: 'text' as const, text, parameters: [] };
  const given = { parameters: {}, sampleKeys: made.sampleKeys, madeHere: true, rowLimit: 10_000 };
  const outcome = await runQuery(design, database.engine, { query, ...given });
  if (!outcome.ok)
    throw new Error(`${text}\n${[...outcome.findings.map(({ message }) => message), ...outcome.problems].join('\n')}`);
  return JSON.parse(outcome.answer.text) as Record<string, unknown>[];
}

/** The same on each engine. */
function onEach(title: string, check: (tree: MadeTree) => Promise<void>): void {
  test.each(NAMES)(
    `${title}, on %s`,
    async (name) => {
      const tree = trees.find((one) => one.name === name);
      if (tree === undefined) throw new Error(`no ${name}`);
      await check(tree);
    },
    600_000,
  );
}

onEach('a row is made with its children, named, and linked; each value says what filled it', async (tree) => {
  const outcome = await carryOut(
    tree,
    `x = create Player with name 'Ines', email 'ines@made.example', branch Branch(1), loans: (instrument Instrument(7), due_on today + 21 days)
create Player(x).reservations with instrument Instrument(8), wanted_on '2031-05-01'
e = create Ensemble with title 'Night Watch'
link Player(x).ensembles to Ensemble(e) with chair 39`,
  );
  if (!outcome.ok) throw new Error([...outcome.findings.map(({ message }) => message), ...outcome.problems].join('\n'));
  const [player, loan] = outcome.carried.lines[0]?.rows ?? [];
  const by = Object.fromEntries(player?.cells.map((cell) => [cell.name, cell.by]) ?? []);
  expect(by).toEqual({
    name: 'given',
    email: 'given',
    branch: 'given',
    steward: 'default',
    created_at: 'default',
    changed_at: 'default',
    id: 'engine',
  });
  expect(loan?.cells).toContainEqual({ name: 'borrower', by: 'owner', value: player?.key });
  expect(loan?.cells).toContainEqual({ name: 'lent_on', by: 'default', value: '2031-04-12' });
  const [row] = await asked(
    tree,
    "from Player; where email = 'ines@made.example'; load loans (due_on); load reservations (wanted_on); load ensembles (title, seats.chair)",
  );
  expect(row).toMatchObject({
    id: player?.key,
    steward: false,
    loans: [{ due_on: '2031-05-03' }],
    reservations: [{ wanted_on: '2031-05-01' }],
    ensembles: [{ title: 'Night Watch', seats: { chair: 39 } }],
  });
});

onEach(
  'what is refused is said in the design’s words, with the row in the way, and nothing of any line is written',
  async (tree) => {
    const before = await asked(tree, 'from Player; count');
    const made = "create Player with name 'A', email 'a@made.example', branch Branch(1)";
    const [first] = await asked(tree, 'from Player; order by id; first');
    const refused = async (command: string) => (await told(tree, `${made}\n${command}`)).join('\n');
    const twice = await refused(`create Player with name 'B', email '${String(first?.email)}', branch Branch(1)`);
    expect(twice).toBe(
      `Line 2: Somebody has this address already. It is Player(${String(first?.id)}). What keeps it: Player.email is unique. Nothing was written.`,
    );
    expect(await refused("create Player with name 'B', email 'b@made.example'")).toContain(
      'Player.branch is required, and nothing fills it: wall own_branch does so for whoever is at work',
    );
    expect(await refused("create Loan with borrower Player(1), instrument Instrument(1), due_on '2030-01-01'")).toContain(
      'A loan ends after it begins.',
    );
    expect(await refused("update Loan(1) with lent_on '1800-01-01'")).toContain('Nothing is lent before it is bought.');
    expect(await refused('update Loan(999999) with due_on today')).toContain('there is no such row of Loan');
    expect(await refused('link Player(1).duet_partners to Player(1)')).toContain('a row is no partner of itself');
    expect(await refused('create Player(1).loans with borrower Player(2), instrument Instrument(1), due_on today')).toContain(
      'both fill borrower_id',
    );
    expect(await refused("create Branch(1).players with name 'B', email 'c@made.example', branch Branch(2)")).toContain(
      'both fill branch_id',
    );
    expect(await refused('delete Branch(1)')).toContain('Other rows point at it');
    expect(await asked(tree, 'from Player; count')).toEqual(before);
  },
);

onEach('partners are linked once, whoever names the other, and taken apart from either side', async (tree) => {
  await told(tree, 'unlink Player(2).duet_partners from Player(5)');
  expect(await told(tree, 'link Player(5).duet_partners to Player(2)\nlink Player(2).duet_partners to Player(5)')).toEqual([
    'linked Player.duet_partners: Player',
    'already linked Player.duet_partners: Player',
  ]);
  expect(
    await told(tree, 'unlink Player(2).duet_partners from Player(5)\nunlink Player(5).duet_partners from Player(2)'),
  ).toEqual(['unlinked Player.duet_partners: Player', 'not linked Player.duet_partners: Player']);
});

onEach('a role to several entities is linked and set by whichever row is named', async (tree) => {
  await told(tree, 'unlink Tag(2).things from Instrument(4), Piece(3)');
  expect(await told(tree, 'link Tag(2).things to Instrument(4), Piece(3)')).toHaveLength(2);
  const [tag] = await asked(tree, 'from Tag; where id = 2; load things');
  const things = tag?.things as readonly Record<string, unknown>[];
  expect(things.some((thing) => thing.id === 4)).toBe(true);
  const lines = `r = create Remark with body 'Good', author Player(2), subject Ensemble(2)\nupdate Remark(r) with subject Hall(1)`;
  expect(await told(tree, lines)).toEqual(['created Remark', 'updated Remark']);
  expect(await asked(tree, "from Remark; where body = 'Good' and subject = Hall(1); count")).toEqual([{ count: 1 }]);
});

onEach('a row is found or made, and found again; behind an owner only among its own', async (tree) => {
  const finds = "find or create Player[email = 'once@made.example'] with name 'Once', branch Branch(2)";
  expect(await told(tree, `${finds}\n${finds}`)).toEqual(['created Player', 'found Player']);
  const updates = "create or update Branch(2).players[email = 'once@made.example'] with name 'Twice'";
  expect(await told(tree, updates)).toEqual(['updated Player']);
  expect(await asked(tree, "from Player; where email = 'once@made.example'; show name")).toEqual([{ name: 'Twice' }]);
  expect(
    (await told(tree, "find or create Player[name = 'Twice' and branch = Branch(3)] with email 'thrice@made.example'")).at(-1),
  ).toBe('created Player');
  expect(
    (await told(tree, 'find or create Loan[borrower = Player(1)] with instrument Instrument(1), due_on today')).join(),
  ).toMatch(/match, and one is meant/);
});

onEach(
  'rows are changed by a condition, each by its own values, and what is rehearsed is as if it had not been',
  async (tree) => {
    const late = await asked(tree, 'from Loan; where overdue; order by id; show id, due_on');
    expect(late.length).toBeGreaterThan(1);
    const outcome = await carryOut(tree, 'update Loan[overdue] with due_on due_on + 7 days', true);
    if (!outcome.ok) throw new Error(outcome.problems.join());
    const rows = outcome.carried.lines[0]?.rows ?? [];
    expect(rows.length).toBe(late.length);
    for (const { before, after } of rows)
      expect(Date.parse(String(after?.due_on)) - Date.parse(String(before?.due_on))).toBe(7 * 86_400_000);
    expect(await asked(tree, 'from Loan; where overdue; order by id; show id, due_on')).toEqual(late);
    await told(tree, 'update Player(4) with mentor Player(5)\nupdate Player(4) with mentor null');
    expect(await asked(tree, 'from Player; where id = 4; show mentor.id as mentor')).toEqual([{ mentor: null }]);
  },
);

onEach('after a key that was given, the engine numbers go on', async (tree) => {
  const lines = "create Ensemble with id 5000, title 'Given'\ncreate Ensemble with title 'Numbered'";
  expect(await told(tree, lines)).toEqual(['created Ensemble', 'created Ensemble']);
  const [row] = await asked(tree, "from Ensemble; where title = 'Numbered'; show id");
  expect(Number(row?.id)).toBeGreaterThan(5000);
});

onEach('a deleted row takes along what hangs on it', async (tree) => {
  const [before] = await asked(tree, 'from Player; where count(loans) > 0; show id; order by id desc; limit 1');
  const id = String(before?.id);
  const [counts] = await asked(tree, `from Player; where id = ${id}; show count(loans) as loans, count(pupils) as pupils`);
  const outcome = await carryOut(tree, `delete Player(${id})`);
  if (!outcome.ok) throw new Error(outcome.problems.join());
  const along = new Map(outcome.carried.along.map(({ of, role, rows }) => [`${of} ${role ?? 'gone'}`, String(rows)]));
  expect(along.get('Loan gone')).toBe(counts?.loans);
  expect(along.get('Player mentor') ?? '0').toBe(counts?.pupils);
  expect(await asked(tree, `from Loan; where borrower.id = ${id}; count`)).toEqual([{ count: 0 }]);
});

describe.each(['single table by kind', 'joined tables by kind', 'separate tables', 'json data by kind'])(
  'kinds in %s',
  (storage) => {
    const text = `entity Thing in things abstract
  id    uuid key
  name  text(40)
  kinds in ${storage}

entity Drum is Thing marked 'drum'
  size  integer

entity Flute is Thing marked 'flute'
  pitch  text(4) optional
`;

    test.each(NAMES)(
      'are made, changed and deleted on %s',
      async (name) => {
        const tree = await makeOn(engines, name, text);
        try {
          expect(
            await told(
              tree,
              "d = create Drum with name 'Bass', size 24\nupdate Thing(d) with name 'Snare'\nupdate Drum(d) with size 14",
            ),
          ).toEqual(['created Drum', 'updated Drum', 'updated Drum']);
          expect(await asked(tree, "from Drum; where name = 'Snare'; show size")).toEqual([{ size: 14 }]);
          expect(await told(tree, "create Flute with name 'Alto'\ndelete Thing[name in ('Snare', 'Alto')]")).toEqual([
            'created Flute',
            expect.stringMatching(/^deleted/),
            expect.stringMatching(/^deleted/),
          ]);
          expect(await asked(tree, "from Thing; where name in ('Snare', 'Alto'); count")).toEqual([{ count: 0 }]);
        } finally {
          await tree.database.remove();
        }
      },
      600_000,
    );
  },
);

/** So often two writers at the same time would make the same row; more with ROUNDS in the environment. */
const ROUNDS = Number(process.env.ROUNDS ?? 50);

describe('two who find or make the same row at once', () => {
  async function race(left: Tree, right: Tree): Promise<void> {
    for (let round = 0; round < ROUNDS; round++) {
      const text = `find or create Player[email = 'race${round}@made.example'] with name 'Race', branch Branch(1)`;
      const both = await Promise.all([told(left, text), told(right, text)]);
      expect(both.flat().sort()).toEqual(['created Player', 'found Player']);
    }
    expect(await asked(left, "from Player; where name = 'Race'; count")).toEqual([{ count: ROUNDS }]);
  }

  test.each(['postgres', 'mariadb'] as const)(
    'one makes it and the other finds it, on %s',
    async (name) => {
      const tree = trees.find((one) => one.name === name);
      if (tree === undefined) throw new Error(`no ${name}`);
      await race(tree, tree);
    },
    600_000,
  );

  test('and on SQLite, from two processes', async () => {
    const folder = temporaryFolder();
    const path = join(folder.path, 'race.db');
    const design = readDesign(LIBRARY, 'sqlite');
    const made = await makeDatabase(design, path);
    if (!made.ok) throw new Error(made.problem.message);
    const [one, other] = [1, 2].map(() => openSqlite({ path, mode: 'write', milliseconds: 60_000 }));
    if (one === undefined || other === undefined) throw new Error('no engine');
    const writer = (engine: Engine) => ({ design, made: made.value, database: { engine } });
    await race(writer(one), writer(other)).finally(() => Promise.all([one.close(), other.close()]));
    folder.remove();
  }, 600_000);
});

const SHELVES = `
entity Shelf in shelves
  id    bigint key
  name  text
entity Case in cases
  id  bigint key

relation standing
  Case knows at most one Shelf as shelf
  Shelf knows many Case as cases

sample Shelf 0
sample Case 0
`;

test.each(NAMES)(
  'keys beyond what a double holds are numbered, linked and found, and a row of nothing but its number is made, on %s',
  async (name) => {
    const tree = await makeOn(engines, name, SHELVES);
    const told = async (commands: string) => {
      const request = { text: commands, sampleKeys: {}, madeHere: false, now: NOW, rehearse: false, keeps: { schemas: null } };
      const outcome = await doCommands(tree.design, tree.database.engine, request);
      if (!outcome.ok) return outcome.problems;
      return outcome.carried.lines.flatMap(({ rows }) =>
        rows.map(({ change, entity, key }) => `${change} ${entity}(${String(key)})`),
      );
    };
    try {
      expect(await told("create Shelf with id 9007199254740993, name 'far'")).toEqual(['created Shelf(9007199254740993)']);
      expect(await told("create Shelf with name 'next'")).toEqual(['created Shelf(9007199254740994)']);
      expect(await told('create Case')).toEqual(['created Case(1)']);
      expect(await told('link Shelf(9007199254740993).cases to Case(1)')).toEqual(['linked Shelf(9007199254740993)']);
      expect(await told('link Shelf(9007199254740993).cases to Case(1)')).toEqual(['already linked Shelf(9007199254740993)']);
    } finally {
      await tree.database.remove();
    }
  },
  600_000,
);

onEach('a value is computed by the engine, of the row and of what stands behind it', async (tree) => {
  const before = await asked(tree, 'from Player\nwhere id <= 2\nload branch (name)\norder by id');
  const worths = await asked(tree, 'from Instrument\nwhere id in (1, 2)\norder by id');
  const text = `update Player[id <= 2] with portrait lower(branch.name) || '.jpg'
update Instrument[id in (1, 2)] with worth worth + 0.05, bought_on '2019-01-02'
update Player(3) with portrait branch.name || count(loans)`;
  expect(await told(tree, text)).toEqual(expect.arrayContaining(['updated Player']));
  const after = await asked(tree, 'from Player\nwhere id <= 2\norder by id');
  expect(after.map(({ portrait }) => portrait)).toEqual(
    before.map(({ branch }) => `${(branch as { name: string }).name.toLowerCase()}.jpg`),
  );
  const now = await asked(tree, 'from Instrument\nwhere id in (1, 2)\norder by id');
  const plus = (worth: unknown) => (Number(worth) + 0.05).toFixed(2);
  expect(now.map(({ worth }) => worth)).toEqual(worths.map(({ worth }) => plus(worth)));
});

const CHAIN = `tree 'Chain'

entity Player in players
  id    integer key
  name  text(40)

relation mentoring
  Player knows at most one Player as mentor
  Player knows many Player as pupils
  on delete no action

sample Player 0
`;

test.each(NAMES)(
  'rows that go together do not keep each other, however many they are, on %s',
  async (name) => {
    const tree = await makeOn(engines, name, CHAIN);
    try {
      const lines = Array.from({ length: 450 }, (_, at) => {
        const mentor = at === 0 ? '' : `, mentor Player(${at})`;
        return `create Player with id ${at + 1}, name 'Chain'${mentor}`;
      });
      expect(await told(tree, lines.join('\n'))).toHaveLength(450);
      expect(await told(tree, 'delete Player[id < 10]')).toEqual([expect.stringContaining('Other rows point at it')]);
      // InnoDB looks at each row by itself, as it goes, whatever the rule is (MariaDB, “Foreign Keys”).
      if (name === 'mariadb') await told(tree, 'update Player[true] with mentor null');
      expect(await told(tree, "delete Player[name = 'Chain']")).toHaveLength(450);
    } finally {
      await tree.database.remove();
    }
  },
  600_000,
);

const CIRCLE = `tree 'Circle'

entity Choir in choirs
  id    integer key
  name  text(40)

entity Leader in leaders
  id    integer key
  name  text(40)

relation leading
  Choir knows one Leader as leader
  Leader knows at most one Choir as choir

relation home
  Leader knows one Choir as home
  Choir knows many Leader as members

sample Choir 0
sample Leader 0
`;

test.each(['sqlite', 'postgres', 'embedded'] as const)(
  'two rows that have to point at each other are made by two commands under keys that are given, on %s',
  async (name) => {
    const tree = await makeOn(engines, name, CIRCLE);
    try {
      const both = "create Choir with id 1, name 'Reeds', leader Leader(7)\ncreate Leader with id 7, name 'Ines', home Choir(1)";
      expect(await told(tree, both)).toEqual(['created Choir', 'created Leader']);
      expect(await asked(tree, 'from Choir\nload leader (name)')).toMatchObject([{ leader: { name: 'Ines' } }]);
      const one = "create Choir with id 2, name 'Bells', leader Leader(8)";
      expect(await told(tree, one)).toEqual([expect.stringContaining('there is no such row of Leader')]);
    } finally {
      await tree.database.remove();
    }
  },
  600_000,
);

test('what could not be taken back is not tried: nothing is written where a table is kept without transactions', async () => {
  const text = `tree 'Kept at once'\n  dialect mariadb\n\nentity Player in players\n  id    integer key\n  name  text(40)\n`;
  const database = await engines.open('mariadb');
  const tree = { design: readDesign(text, 'mariadb'), database, made: { sampleKeys: {} } as MadeTree['made'] };
  try {
    const made = await database.engine.execute(['create table players (id integer primary key, name varchar(40)) engine=MyISAM']);
    expect(made.ok).toBe(true);
    const create = "create Player with id 1, name 'Ines'";
    expect(await told(tree, create, true)).toEqual([expect.stringContaining('players is kept without transactions')]);
    expect(await asked(tree, 'from Player')).toEqual([]);
    expect(await told(tree, create)).toEqual(['created Player']);
    expect(await asked(tree, 'from Player\nshow name')).toEqual([{ name: 'Ines' }]);
  } finally {
    await database.remove();
  }
}, 120_000);
