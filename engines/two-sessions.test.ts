import { setTimeout as sleep } from 'node:timers/promises';
import { createConnection } from 'mariadb';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';

/** How often two sessions meet, for each form and rule. */
const TIMES = Number(process.env.INTERLEAVINGS ?? 40);

const textWith = (rule: string) => `entity Branch in branches
  id  integer key

entity Player in players
  id  integer key

relation home
  Player knows at most one Branch as branch
  on delete cascade

entity Hall in halls
  id  integer key

entity Instrument in instruments
  id  integer key
  kinds in single table by kind

entity Harp is Instrument
  strings  integer optional

entity Drum is Instrument
  depth  integer optional

entity Tool in tools
  id  uuid key
  kinds in separate tables

entity Bow is Tool in bows
  hair  text(10) optional

entity Reed is Tool in reeds
  strength  integer optional

entity Remark in remarks
  id  bigint key

entity Loan in loans
  id  bigint key

entity Repair in repairs
  id  bigint key

entity Tag in tags
  id  integer key

relation subject
  Remark knows at most one Player | Hall as subject
  stored in Remark.subject_type with Remark.subject_id
  on delete ${rule}

relation lending
  Loan knows at most one Harp as harp
  stored in Loan.harp_id
  on delete ${rule}

relation mending
  Repair knows at most one Tool as tool
  stored in Repair.tool_id
  on delete ${rule}
${
  rule === 'set null'
    ? ''
    : `
relation tagging
  Tag knows many Player | Hall as things
  stored in table taggings (tag_id, thing_type with thing_id)
  on delete ${rule}
`
}
sample Player 0
sample Branch 0
sample Hall 0
sample Harp 0
sample Drum 0
sample Bow 0
sample Reed 0
sample Remark 0
sample Loan 0
sample Repair 0
sample Tag
  old: id 1
`;

const uuid = (n: number) => `'00000000-0000-0000-0000-${String(n).padStart(12, '0')}'`;

interface Meeting {
  readonly form: string;
  /** What stands there before. */
  readonly before: (n: number) => readonly string[];
  readonly child: (n: number) => string;
  readonly removal: (n: number) => string;
  /** Counts the rows that point at nothing, or at what they may not. */
  readonly orphans: string;
}

const player = (n: number) => `insert into players (id, branch_id) values (${n}, ${n})`;
const branch = (n: number) => `insert into branches (id) values (${n})`;
const remark = (n: number) => `insert into remarks (subject_type, subject_id) values ('player', ${n})`;
const lostRemarks =
  "select count(*) from remarks where subject_type = 'player' and not exists (select 1 from players where players.id = subject_id)";
const lostLoans =
  "select count(*) from loans where harp_id is not null and not exists (select 1 from instruments where instruments.id = harp_id and kind = 'harp')";

const MEETINGS: readonly Meeting[] = [
  {
    form: 'type and id',
    before: (n) => [branch(n), player(n)],
    child: remark,
    removal: (n) => `delete from players where id = ${n}`,
    orphans: lostRemarks,
  },
  {
    form: 'type and id, of what goes by a cascade',
    before: (n) => [branch(n), player(n)],
    child: remark,
    removal: (n) => `delete from branches where id = ${n}`,
    orphans: lostRemarks,
  },
  {
    form: 'type and id, of what is pointed at by an update',
    before: (n) => [branch(n), player(n), `insert into remarks (id) values (${n})`],
    child: (n) => `update remarks set subject_type = 'player', subject_id = ${n} where id = ${n}`,
    removal: (n) => `delete from players where id = ${n}`,
    orphans: lostRemarks,
  },
  {
    form: 'a kind in a single table',
    before: (n) => [`insert into instruments (id, kind) values (${n}, 'harp')`],
    child: (n) => `insert into loans (harp_id) values (${n})`,
    removal: (n) => `delete from instruments where id = ${n}`,
    orphans: lostLoans,
  },
  {
    form: 'a kind whose mark is changed',
    before: (n) => [`insert into instruments (id, kind) values (${n}, 'harp')`],
    child: (n) => `insert into loans (harp_id) values (${n})`,
    removal: (n) => `update instruments set kind = 'drum' where id = ${n}`,
    orphans: lostLoans,
  },
  {
    form: 'kinds in separate tables',
    before: (n) => [`insert into ${n % 2 === 0 ? 'bows' : 'reeds'} (id) values (${uuid(n)})`],
    child: (n) => `insert into repairs (tool_id) values (${uuid(n)})`,
    removal: (n) => `delete from ${n % 2 === 0 ? 'bows' : 'reeds'} where id = ${uuid(n)}`,
    orphans:
      'select count(*) from repairs where tool_id is not null and not exists (select 1 from bows where bows.id = tool_id) and not exists (select 1 from reeds where reeds.id = tool_id)',
  },
  {
    form: 'a pivot by type and id',
    before: (n) => [branch(n), player(n)],
    child: (n) => `insert into taggings (tag_id, thing_type, thing_id) values (1, 'player', ${n})`,
    removal: (n) => `delete from players where id = ${n}`,
    orphans: 'select count(*) from taggings where not exists (select 1 from players where players.id = thing_id)',
  },
];

/** One session with a server, as any program has one. */
interface Session {
  run(sql: string): Promise<unknown[][]>;
  end(): Promise<void>;
}

async function sessionWith({ database: { address } }: MadeTree, password: string): Promise<Session> {
  if (address === null) throw new Error('no server');
  const { host, port, user, database } = address;
  if (address.engine === 'postgres') {
    const client = new pg.Client({ host, port, user, database, password });
    await client.connect();
    return {
      run: async (sql) => (await client.query({ text: sql, rowMode: 'array' })).rows as unknown[][],
      end: () => client.end(),
    };
  }
  const connection = await createConnection({ host, port, user, database, password, rowsAsArray: true, bigIntAsNumber: true });
  return { run: async (sql) => (await connection.query(sql)) as unknown[][], end: () => connection.end() };
}

/** One transaction, with pauses in it; whether it was let through. */
async function transaction(session: Session, sql: string, pauses: readonly number[]): Promise<boolean> {
  const [before = 0, after = 0] = pauses;
  try {
    await session.run('begin');
    // From here on a transaction of MariaDB sees what stood there now.
    if (after > 0) await session.run('select count(*) from tags');
    await sleep(before);
    await session.run(sql);
    await sleep(after);
    await session.run('commit');
    return true;
  } catch {
    await session.run('rollback');
    return false;
  }
}

describe.each(['postgres', 'mariadb'] as const)('two sessions on %s, at its own isolation', (name) => {
  let engines: Engines;
  beforeAll(() => {
    engines = openEngines(inject('servers'));
  });
  afterAll(() => engines.close());

  test.each(['cascade', 'restrict', 'set null'])(
    'leave no row that points at nothing, on delete %s, in whatever order they come',
    async (rule) => {
      const made = await makeOn(engines, name, textWith(rule));
      const { password } = inject('servers');
      const [one, other] = [await sessionWith(made, password), await sessionWith(made, password)];
      let n = 0;
      for (const { form, before, child, removal, orphans } of MEETINGS) {
        if (rule === 'set null' && form.startsWith('a pivot')) continue;
        const outcomes = new Set<string>();
        for (let time = 0; time < TIMES; time++) {
          n += 1;
          for (const sql of before(n)) await one.run(sql);
          // Now the one is well ahead, now the other, now both come at once.
          const lead = ((time * 7) % 5) - 2;
          const pauses = (own: number) => [Math.max(0, own) * 2, time % 3] as const;
          const [put, removed] = await Promise.all([
            transaction(one, child(n), pauses(lead)),
            transaction(other, removal(n), pauses(-lead)),
          ]);
          outcomes.add(`${put} ${removed}`);
        }
        const [[count = -1] = []] = await one.run(orphans);
        expect(Number(count), `${form}, of ${TIMES}`).toBe(0);
        // They did meet: each was first at times.
        expect(outcomes.size, form).toBeGreaterThan(1);
      }
      await one.end();
      await other.end();
      await made.database.remove();
    },
    1_200_000,
  );
});
