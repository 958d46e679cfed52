import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { doCommands, runQuery } from '../services/index.js';
import { ENGINES } from '../tests/agreement.js';
import { type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const TEXT = `tree 'Pairs that repeat'

entity Concert in concerts
  id  integer key

entity Piece in pieces
  id     integer key
  title  text(40)

relation setlist
  Concert knows many Piece as pieces order by setlist.position
  Piece knows many Concert as concerts
  stored in table setlist (concert_id, piece_id) repeats
    position  integer
    encore    boolean default false

relation plan
  Concert knows many Piece as planned
  Piece knows many Concert as planned_in
  stored in table plan (concert_id, piece_id) repeats

relation keeping
  Piece knows at most one Concert as kept_by
  Concert knows many Piece as kept

sample Concert
  pieces 0 to 0 each
  planned 0 to 0 each
  first: id 1
sample Piece
  air: title 'Air'
  storm: title 'Storm'
`;

async function told({ design, database, made }: MadeTree, text: string): Promise<string> {
  const request = { text, sampleKeys: made.sampleKeys, madeHere: true, now: '2031-04-12T09:00:00.000000Z', rehearse: false };
  const outcome = await doCommands(design, database.engine, request);
  if (!outcome.ok) return [...outcome.findings.map(({ message }) => message), ...outcome.problems].join(' ');
  return outcome.carried.lines.flatMap(({ rows }) => rows.map(({ change }) => change)).join(', ');
}

async function places({ design, database, made }: MadeTree): Promise<unknown> {
  const query = { kind: 'text' as const, text: 'from Concert\nload pieces (id, setlist.position)', parameters: [] };
  const given = { query, parameters: {}, sampleKeys: made.sampleKeys, madeHere: true, rowLimit: 100 };
  const outcome = await runQuery(design, database.engine, given);
  if (!outcome.ok) throw new Error(outcome.problems.join(' '));
  const [concert] = JSON.parse(outcome.answer.text) as { pieces: { id: number; setlist: { position: number } }[] }[];
  return concert?.pieces.map(({ id, setlist }) => `${id}@${setlist.position}`);
}

test.each(ENGINES)(
  'of pairs that repeat those are taken apart that a condition means, on %s',
  async (name) => {
    const tree = await makeOn(engines, name, TEXT);
    const air = 'Concert(first).pieces';
    try {
      for (const position of [1, 3, 5]) await told(tree, `link ${air} to Piece(air) with position ${position}`);
      await told(tree, `link ${air} to Piece(storm) with position 2, encore true`);
      expect(await places(tree)).toEqual(['1@1', '2@2', '1@3', '1@5']);
      expect(await told(tree, `unlink ${air} from Piece(air)`)).toMatch(
        /^Concert\.pieces: these two are linked 3 times\. Say which pairs, by what they hold, as in “pieces\[setlist\.position = …\] from …”/,
      );
      expect(await told(tree, `unlink ${air}[setlist.position = 3] from Piece(air)`)).toBe('unlinked');
      expect(await places(tree)).toEqual(['1@1', '2@2', '1@5']);
      expect(await told(tree, `unlink ${air}[setlist.position > 4 and not setlist.encore] from Piece(air), Piece(storm)`)).toBe(
        'unlinked, not linked',
      );
      expect(await told(tree, `unlink ${air}[setlist.encore] from Piece(storm)`)).toBe('unlinked');
      expect(await places(tree)).toEqual(['1@1']);
      expect(await told(tree, `unlink ${air}[title = 'Air'] from Piece(air)`)).toContain('by what they hold themselves');
      expect(await told(tree, 'unlink Concert(first).kept[true] from Piece(air)')).toContain('kept is kept by a key');
      // Pairs that hold nothing are all the same.
      await told(tree, 'link Concert(first).planned to Piece(air)\nlink Concert(first).planned to Piece(air)');
      expect(await told(tree, 'unlink Concert(first).planned from Piece(air)')).toBe('unlinked');
      expect(await told(tree, 'unlink Concert(first).planned from Piece(air)')).toBe('not linked');
    } finally {
      await tree.database.remove();
    }
  },
  600_000,
);
