import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { checkExpectations, type DoOutcome, doCommands } from '../services/index.js';
import { ONE_OF_EACH } from '../tests/agreement.js';
import { type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';
import { WALLED_LIBRARY } from '../tests/walled-library.js';

const NOW = '2031-04-12T09:00:00.000000Z';

const HIDDEN = 3;
const MISSING = 99;

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

describe.each(ONE_OF_EACH)('on %s', (name) => {
  let tree: MadeTree;
  beforeAll(async () => {
    tree = await makeOn(engines, name, WALLED_LIBRARY);
  }, 600_000);
  afterAll(() => tree.database.remove());

  function rehearsed(text: string): Promise<DoOutcome> {
    const { design, database, made } = tree;
    const request = { text, sampleKeys: made.sampleKeys, madeHere: true, now: NOW, rehearse: true, seed: 'the same' };
    return doCommands(design, database.engine, request);
  }

  /** What became of each row; or why nothing was done. */
  async function told(text: string): Promise<readonly string[]> {
    const outcome = await rehearsed(text);
    if (!outcome.ok) return [...outcome.findings.map(({ message }) => message), ...outcome.problems];
    return outcome.carried.lines.flatMap(({ rows }) => rows.map(({ change, entity }) => `${change} ${entity}`));
  }

  test('a row behind a wall is not found by whoever types its key, in the words for one that is not there', async () => {
    for (const command of [
      (key: number) => `update Loan(${key}) with fee 5`,
      (key: number) => `delete Loan(${key})`,
      (key: number) => `update Player(${key}) with name 'Nora'`,
      (key: number) => `create Loan with borrower Player(${key})`,
      (key: number) => `create Player(${key}).loans with fee 2`,
      (key: number) => `link Player(${key}).ensembles to Ensemble(1)`,
      (key: number) => `unlink Player(${key}).ensembles from Ensemble(1)`,
      (key: number) => `link Player(${key}).taught to Ensemble(1)`,
      (key: number) => `link Player(1).loans to Loan(${key})`,
      (key: number) => `update Remark(1) with loan Loan(${key})`,
      (key: number) => `find or create Player(${key}).loans[fee = 5]`,
      (key: number) => `create Loan with player_id ${key}`,
      (key: number) => `update Loan(1) with player_id ${key}`,
    ]) {
      const hidden = await told(`as Player(ines)\n${command(HIDDEN)}`);
      const missing = await told(`as Player(ines)\n${command(MISSING)}`);
      expect(hidden.map((text) => text.replaceAll(String(HIDDEN), String(MISSING)))).toEqual(missing);
      expect(hidden.join(' ')).toMatch(/no such row|is not there/);
      expect((await rehearsed(command(HIDDEN))).ok, command(HIDDEN)).toBe(true);
    }
  });

  test('of rows that a condition means only those in reach are written', async () => {
    expect(await told('as Player(ines)\nupdate Loan[true] with fee 5')).toEqual(['updated Loan', 'updated Loan']);
    expect(await told('as Player(ines)\nupdate Remark[true] with body 5')).toHaveLength(1);
    expect(await told("as Player(ines)\nupdate Remark[true] with body 'mine'")).toEqual(['updated Remark']);
    expect(await told('as Player(guard)\ndelete Loan[true]')).toEqual([
      'The delete would reach 3 rows that whoever is at work may not change. Nothing was written.',
    ]);
    expect(await told('update Loan[true] with fee 5')).toHaveLength(3);
    expect(await told('as nobody\nupdate Loan[true] with fee 5')).toEqual([]);
  });

  test('what may be read and not written is not found by a write', async () => {
    expect(await told("as Player(ines)\nupdate Remark(his) with body 'mine'")).toEqual([
      'Updating: there is no such row of Remark. Look for it with “from Remark”, or make it first. Nothing was written.',
    ]);
    expect(await told('as Player(ines)\ndelete Remark(his)')).toEqual([
      'Deleting: there is no such row of Remark. Look for it with “from Remark”, or make it first. Nothing was written.',
    ]);
    expect(await told("as Player(oskar)\nupdate Remark(his) with body 'mine'")).toEqual(['updated Remark']);
  });

  test('no row is put behind a wall, nor taken from behind it', async () => {
    expect(await told('as Player(guard)\nupdate Remark(theirs) with author Player(guard)')).toEqual([
      'Updating: there is no such row of Remark. Look for it with “from Remark”, or make it first. Nothing was written.',
    ]);
    expect(await told('as Player(ines)\nupdate me with branch Branch(south)')).toEqual([
      'Player.branch is pinned by wall own_branch: whoever is at work gives it no other value. Leave it out. Nothing was written.',
    ]);
    expect(await told('as Player(ines)\nlink Branch(south).players to me')).toEqual([
      'Player.branch is pinned by wall own_branch: whoever is at work gives it no other value. Leave it out. Nothing was written.',
    ]);
    expect(await told('as Player(guard)\nupdate me with branch Branch(north)')).toEqual(['updated Player']);
  });

  test('a pin fills what is not given, says so, and refuses another value; nobody has none, and the system has to give it', async () => {
    const outcome = await rehearsed(
      "as Player(ines)\ncreate Remark with body 'new', loan Loan(first)\ncreate Player with name 'Nora'",
    );
    if (!outcome.ok) throw new Error(outcome.problems.join(' '));
    const cells = outcome.carried.lines.map(({ rows: [row] }) => row?.cells.filter(({ by }) => by === 'pin'));
    expect(cells).toEqual([[{ name: 'author', by: 'pin', value: 1 }], [{ name: 'branch', by: 'pin', value: 1 }]]);
    expect(await told("as Player(ines)\ncreate Remark with body 'new', author Player(oskar)")).toEqual([
      'Remark.author is pinned by wall own_remarks: whoever is at work gives it no other value. Leave it out. Nothing was written.',
    ]);
    expect(await told("as Player(ines)\ncreate Remark with body 'new', author me")).toEqual(['created Remark']);
    expect(await told("as nobody\ncreate Remark with body 'new'")).toEqual([
      'Remark.author is pinned by wall own_remarks to a value that whoever is at work has not got. Nobody else’s can be given. Nothing was written.',
    ]);
    expect((await told("create Remark with body 'new'")).join()).toContain('Give it behind “with”');
    expect(await told("create Remark with body 'new', author Player(teo)")).toEqual(['created Remark']);
    expect(await told("as Player(guard)\ncreate Player with name 'Nora', branch Branch(north)")).toEqual(['created Player']);
  });

  test('a delete whose cascade would reach behind a wall is refused with how many rows, and not which', async () => {
    // Her loan goes along, and of the two remarks about it his is not hers to empty.
    expect(await told('as Player(ines)\ndelete Loan(first)')).toEqual([
      'The delete would reach 1 row that whoever is at work may not change. Nothing was written.',
    ]);
    expect(await told('as Player(ines)\ndelete Loan(second)')).toEqual(['deleted Loan']);
    expect(await told('as Player(oskar)\ndelete me')).toEqual([
      'Remark(2) would be out of reach of whoever is at work: wall own_remarks keeps it from them. What they write stays within their walls. Nothing was written.',
    ]);
    expect(await told('delete Player(oskar)')).toEqual(['deleted Player']);
  });

  test('a unique that a hidden row has says that it is taken, and not by which', async () => {
    const [taken = ''] = await told("as Player(ines)\ncreate Player with name 'Nora', email 'teo@example.org'");
    const [own = ''] = await told("as Player(ines)\ncreate Player with name 'Nora', email 'oskar@example.org'");
    expect(own).toContain('It is Player(2).');
    expect(taken).toBe(own.replace(' It is Player(2).', ''));
    const [found = ''] = await told("as Player(ines)\nfind or create Player[email = 'teo@example.org'] with name 'Nora'");
    expect(found).toBe(taken);
    expect(await told("as Player(ines)\nfind or create Player[email = 'oskar@example.org'] with name 'Nora'")).toEqual([
      'found Player',
    ]);
  });

  test('pairs that are rows of an entity have walls of their own', async () => {
    expect(await told('as Player(ines)\nlink Ensemble(quartet).players to Player(ines)')).toEqual(['already linked Ensemble']);
    expect(await told('as Player(ines)\nunlink me.ensembles from Ensemble(quartet)')).toEqual(['unlinked Player']);
    expect(await told('as Player(ines)\nlink me.ensembles to Ensemble(octet)')).toEqual(['linked Player']);
    expect(await told('as Player(ines)\nupdate Seat[true] with chair 4')).toEqual(['updated Seat']);
    expect(await told('as Player(ines)\nupdate Seat(near) with player Player(oskar)')).toEqual(['updated Seat']);
  });

  test('what is expected of a command on behalf of somebody is refused only where the system could have done it', async () => {
    const { design, database, made } = tree;
    const text = `${design.text}
expect update Loan(far) with fee 5 as Player(ines)
  refused

expect update Loan(first) with fee 5 as Player(ines)
  done

expect update Loan(far) with fee 5 as Player(teo)
  refused

expect delete Branch(north) as Player(ines)
  refused
`;
    const of = { engine: database.engine, writable: database.engine, sampleKeys: made.sampleKeys, madeHere: true, now: NOW };
    const runs = await checkExpectations(readDesign(text, design.dialect.name), of);
    expect(runs.map(({ lines }) => lines[0]?.broken)).toEqual([
      null,
      null,
      'It was done, and not refused.',
      expect.stringContaining('The system could not do it either: Other rows point at it'),
    ]);
  });

  test('who is at work may change from line to line, and rows that lines have named may be at work', async () => {
    const both =
      "x = create Player with name 'Nora', branch Branch(south)\nas Player(x)\ncreate Remark with body 'new', loan Loan(far)";
    expect(await told(both)).toEqual(['created Player', 'created Remark']);
    expect(await told('as Player(ines)\nupdate Loan(first) with fee 3\nas Player(teo)\nupdate Loan(first) with fee 4')).toEqual([
      'Line 2: Updating: there is no such row of Loan. Look for it with “from Loan”, or make it first. Nothing was written.',
    ]);
    expect(await told('as Player(99)\nupdate Loan(first) with fee 3')).toEqual([
      'There is no such Player: nobody can work as that row. Nothing was written.',
    ]);
    expect(await told("create Remark with body 'new', author me")).toEqual([
      expect.stringContaining('the system is nobody’s row'),
    ]);
  });
});
