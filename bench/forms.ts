import Database from 'better-sqlite3';
import { readDesign } from '../core/design/index.js';
import { scriptOf, sqliteDialect } from '../core/dialects/index.js';
import { loadRows, type Statement, type StatementResult } from '../core/load/index.js';
import { planQuery } from '../core/plan/index.js';
import { drive } from '../engines/index.js';
import { preparedPlan } from '../tests/prepared.js';
import { medians } from './measure.js';

const TREE = `entity Player
  id    integer key
  name  text(40)

entity Ensemble
  id     integer key
  title  text(40)

entity Space
  id     integer key
  label  text(40)
  kinds in joined tables by sort

entity Hall is Space
  seats  integer

entity Yard is Space
  paved  boolean

entity Remark
  id    integer key
  body  text(40)

relation seating
  Player knows many Ensemble as ensembles
  Ensemble knows many Player as players
  stored in table seats (player_id, ensemble_id)

relation subject
  Remark knows one Player | Ensemble | Space as subject
  each knows many Remark as remarks

path Player.fellows = ensembles.players
`;

type Row = Record<string, unknown>;
type All = (sql: string, ...parameters: unknown[]) => unknown[][];

const SPACES =
  'select s.id, s.label, s.sort, h.seats, y.paved from spaces s left join halls h on h.id = s.id left join yards y on y.id = s.id';
const IN = 'in (select value from json_each(?))';

function spaceOf([id, label, sort, seats, paved]: readonly unknown[]): Row {
  if (sort === 'hall') return { '~kind': 'Hall', id, label, seats };
  return sort === 'yard' ? { '~kind': 'Yard', id, label, paved: paved === 1 } : { '~kind': 'Space', id, label };
}

/** Each load, and the same as a careful person writes it by hand: one statement for all owners, stitched by key. */
const LOADS: readonly { readonly what: string; readonly query: string; readonly byHand: (all: All) => Row[] }[] = [
  {
    what: 'a role to several entities, one with kinds in joined tables',
    query: 'from Remark\nload subject',
    byHand: (all) => {
      const remarks = all('select id, body, subject_type, subject_id from remarks order by id');
      const ids = (type: string) =>
        JSON.stringify(Array.from(new Set(remarks.flatMap((row) => (row[2] === type ? [row[3]] : [])))));
      const found = new Map<string, Row>();
      for (const [id, name] of all(`select id, name from players where id ${IN}`, ids('player')))
        found.set(`player ${id}`, { '~kind': 'Player', id, name });
      for (const [id, title] of all(`select id, title from ensembles where id ${IN}`, ids('ensemble')))
        found.set(`ensemble ${id}`, { '~kind': 'Ensemble', id, title });
      for (const row of all(`${SPACES} where s.id ${IN}`, ids('space'))) found.set(`space ${row[0]}`, spaceOf(row));
      return remarks.map(([id, body, subject_type, subject_id]) => ({
        id,
        body,
        subject_type,
        subject_id,
        subject: found.get(`${subject_type} ${subject_id}`) ?? null,
      }));
    },
  },
  {
    what: 'a base whose kinds stand in joined tables',
    query: 'from Space',
    byHand: (all) => all(`${SPACES} order by s.id`).map(spaceOf),
  },
  {
    what: 'a path over pairs and back, each end once',
    query: 'from Player\nload fellows',
    byHand: (all) => {
      const players = all('select id, name from players order by id');
      const fellows = new Map<unknown, Row[]>();
      const pairs = all(
        `select distinct a.player_id, p.id, p.name from seats a join seats b on b.ensemble_id = a.ensemble_id join players p on p.id = b.player_id where a.player_id ${IN} order by a.player_id, p.id`,
        JSON.stringify(players.map(([id]) => id)),
      );
      for (const [owner, id, name] of pairs) {
        const list = fellows.get(owner);
        if (list === undefined) fellows.set(owner, [{ id, name }]);
        else list.push({ id, name });
      }
      return players.map(([id, name]) => ({ id, name, fellows: fellows.get(id) ?? [] }));
    },
  },
];

function filled(script: string): Database.Database {
  const db = new Database(':memory:');
  db.exec(script);
  db.transaction(() => {
    const put = (sql: string) => db.prepare(sql);
    const player = put('insert into players values (?, ?)');
    const ensemble = put('insert into ensembles values (?, ?)');
    const seat = put('insert into seats values (?, ?)');
    const space = put('insert into spaces values (?, ?, ?)');
    const hall = put('insert into halls values (?, ?)');
    const yard = put('insert into yards values (?, ?)');
    const remark = put('insert into remarks values (?, ?, ?, ?)');
    for (let at = 1; at <= 3000; at++) player.run(at, `Player ${at}`);
    for (let at = 1; at <= 600; at++) ensemble.run(at, `Ensemble ${at}`);
    for (let at = 0; at < 6000; at++) seat.run(1 + (at % 3000), 1 + ((at * 7 + Math.floor(at / 3000)) % 600));
    for (let at = 1; at <= 9000; at++) {
      space.run(at, `Space ${at}`, ['hall', 'yard', 'space'][at % 3]);
      if (at % 3 === 0) hall.run(at, at * 2);
      if (at % 3 === 1) yard.run(at, at % 2);
    }
    const counts = [3000, 600, 9000];
    for (let at = 1; at <= 30_000; at++)
      remark.run(at, `Remark ${at}`, ['player', 'ensemble', 'space'][at % 3], 1 + ((at * 11) % (counts[at % 3] ?? 1)));
  })();
  return db;
}

/** Loads over roles to several entities, kinds and paths, from statement to JSON text, against the same written by hand. */
export function benchForms(): string[] {
  const design = readDesign(TREE);
  const db = filled(scriptOf(sqliteDialect, design.schema));
  const execute = ({ sent, parameters }: Statement): StatementResult => {
    const started = performance.now();
    return {
      rows: db.prepare(sent).raw().all(parameters) as unknown[][],
      milliseconds: performance.now() - started,
      steps: [],
      refused: null,
    };
  };
  const all: All = (sql, ...parameters) =>
    db
      .prepare(sql)
      .raw()
      .all(...parameters) as unknown[][];
  return LOADS.map(({ what, query: text, byHand }) => {
    const { query } = design.queryOf(text);
    if (query === null) throw new Error('the query does not stand');
    const ours = () => {
      const prepared = preparedPlan(design, planQuery(design.model, query));
      return JSON.stringify(drive(loadRows(sqliteDialect, { prepared, rowLimit: 1_000_000 }), execute).rows);
    };
    const hand = () => JSON.stringify(byHand(all));
    if (ours() !== hand()) throw new Error(`the two answers differ: ${what}`);
    const times = medians({ ours, hand }, 15);
    return `${what}: ${(times.ours / times.hand).toFixed(2)} × the same by hand (${times.ours.toFixed(0)} ms against ${times.hand.toFixed(0)} ms)`;
  });
}
