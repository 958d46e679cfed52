import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { preparedQuery, sqlOf } from '../../tests/prepared.js';
import { readDesign } from '../design/index.js';
import { dialects, sqliteDialect } from '../dialects/index.js';
import type { Compiled, CompiledLoad } from './index.js';

const design = readDesign(readFileSync('tests/forms/forms.kin', 'utf8'));

function plan(text: string): Compiled {
  return preparedQuery(design, text).compiled;
}

const sql = (text: string) => sqliteDialect.printQuery(plan(text).select);
const joins = (text: string) => sql(text).match(/\bjoin\b/g)?.length ?? 0;
const loadSql = ({ select }: CompiledLoad) => sqliteDialect.printQuery(select);

describe('kinds in joined tables join the tables of what is asked for, and no other', () => {
  test.each([
    ['from Hall\ncount', 0],
    ['from Hall\nwhere seats > 10\ncount', 0],
    ["from Hall\nwhere label = 'x'\ncount", 1],
    ["from Space\nwhere label = 'x'\ncount", 0],
    // The base and three kinds below it, of which one has a base of its own.
    ['from Space', 4],
    ['from DrumBooth', 3],
    ['from Loan\nwhere booth.loudest > 3\ncount', 1],
    ['from Loan\nwhere booth = DrumBooth(3)\ncount', 0],
    ['from Loan\nwhere held_in is a Hall\ncount', 1],
  ] as const)('%s: %i', (text, count) => {
    expect(joins(text)).toBe(count);
  });
});

describe('kinds', () => {
  test('in a single table are told by their mark, and a base by none', () => {
    expect(sql('from StringInstrument\ncount')).toContain("where instruments.kind in ('string', 'harp')");
    expect(sql('from Harp\ncount')).toContain("where instruments.kind = 'harp'");
    expect(sql('from Instrument\ncount')).not.toContain('where');
  });

  test('in separate tables are one union, of the columns that are asked for', () => {
    const query = sql("from Paper\nwhere title = 'x'\ncount");
    expect(query.match(/union all/g)?.length).toBe(1);
    expect(query).not.toMatch(/pages|total/);
    expect(sql('from Contract')).not.toContain('union');
  });

  test('in JSON have their own fields taken out of it, as what they are', () => {
    expect(sql('from Crate\nwhere sealed and value > 2\ncount')).toMatch(/json_extract\(parcels\.details, '\$\."sealed"'\)/);
    expect(sqlOf({ ...design, dialect: dialects.postgres }, 'from Crate\nwhere weight > 2')).toContain(
      "cast(jsonb_extract_path_text(parcels.details, 'weight') as double precision)",
    );
  });

  test('never give their mark away', () => {
    for (const entity of design.model.entities.values()) {
      const { kinds } = entity;
      if (kinds === null || kinds.storage.kind === 'separate tables') continue;
      const { mark } = kinds.storage;
      expect(plan(`from ${entity.name}`).outputs.map(({ name }) => name)).not.toContain(mark);
    }
  });
});

describe('a role to several entities', () => {
  test('is one statement for each that is seen, and asks only those that point there', () => {
    const loads = plan('from Remark\nload subject').loads;
    expect(loads.map(({ entity, owners }) => [entity, owners?.values])).toEqual([
      ['Instrument', ['instrument']],
      ['Ensemble', ['ensemble']],
      ['Player', ['player']],
    ]);
    expect(plan('from Remark\nload (subject as Ensemble)').loads.map(({ entity }) => entity)).toEqual(['Ensemble']);
  });

  test('with keys of several types is sought as text, by its own index', () => {
    const [load] = plan('from Player\nload remarks').loads;
    expect(load?.asText).toBe(true);
    expect(load === undefined ? '' : loadSql(load)).toMatch(/remarks\.subject_type = 'player'[\s\S]*remarks\.subject_id in/);
    expect(sql("from Remark\nwhere (subject as Player).name = 'x'")).toContain(
      "case when remarks.subject_type = 'player' then cast(remarks.subject_id as integer) end",
    );
  });

  test('asked whether it points at all needs no join', () => {
    expect(joins('from Remark\nwhere answers is null')).toBe(0);
    expect(joins('from Stamp\nwhere on_what is a City')).toBe(0);
  });
});

describe('a path', () => {
  test('is one statement, in which the rows between are joined and not fetched', () => {
    const [load] = plan('from Branch\nload instruments').loads;
    expect(load?.loads).toEqual([]);
    const text = load === undefined ? '' : loadSql(load);
    expect(text).toMatch(/group by players\.branch_id, loans\.instrument_id/);
    expect(text.split(/\bfrom\b/)[0]).not.toMatch(/loans\.|players\./);
  });

  test.each([
    ['from Branch\nload instruments', ['players', 'loans', 'instruments']],
    ['from Player\nload last_loan', ['loans']],
  ])('%j joins no table twice, and not that of its owners', (text, tables) => {
    const [load] = plan(text).loads;
    const joined = Array.from((load === undefined ? '' : loadSql(load)).matchAll(/\b(?:from|join) (\w+)/g), ([, name]) => name);
    expect(joined.filter((name) => name !== 'json_each').sort()).toEqual([...tables].sort());
  });

  test('to a first row picks one for each owner by the stated order', () => {
    const [load] = plan('from Player\nload last_loan').loads;
    expect(load?.many).toBe(false);
    expect(load === undefined ? '' : loadSql(load)).toMatch(
      /row_number\(\) over \(partition by loans\.borrower_id order by loans\.lent_on desc/,
    );
  });
});

describe('what stands in a statement can speak of what stands before it alone', () => {
  const loaded = (text: string) => {
    const [load] = plan(text).loads;
    return load === undefined ? '' : loadSql(load);
  };

  test('a hop over pairs known both ways is sought within them where it comes first, and joined where it comes later', () => {
    const [first = '', second = ''] = sql('from Player\nwhere any(partners_of_partners)').split('join players duet_partners');
    expect(first).toMatch(/from duets\n\s+where player_id = players\.id\n\s+union all/);
    expect(second).toMatch(/from duets\n\s+union all/);
    expect(second).toContain('on duets_2.player_id = duet_partners.id');
    expect(loaded('from Player\nload partners_of_partners')).not.toContain('where player_id = players.id');
  });

  test('the table of a base in between is joined before what its key leads to', () => {
    const query = sql("from DrumBooth\nwhere near.name = 'x'");
    expect(query.indexOf('join studios')).toBeGreaterThan(0);
    expect(query.indexOf('join studios')).toBeLessThan(query.indexOf('join cities'));
  });

  test('rows of a kind sought over the table of a base in between are told by their mark, not by a join that comes later', () => {
    const query = loaded('from City\nload (studios as DrumBooth)');
    expect(query).toMatch(/from studios/);
    expect(query).toContain("spaces.sort = 'drum_booth'");
    expect(sql('from City\nwhere any((studios as DrumBooth))')).toMatch(/exists \([\s\S]*sort = 'drum_booth'/);
  });
});

test('of a base with one kind in a table of its own, nothing is no row of that kind', () => {
  expect(sql('from Loan\nwhere memo is a Slip')).toContain('where memos.id is not null');
  expect(sql('from Loan\nwhere memo is not a Slip')).toContain('(memos.id is not null) is not true');
});

test('what an entity always loads comes along with it, unless the query loads it itself', () => {
  expect(plan('from Player').loads.map(({ role, span }) => [role, span])).toEqual([['branch', null]]);
  expect(plan('from Player\nload branch (name)').loads.length).toBe(1);
  expect(plan('from Loan\nload borrower').loads[0]?.loads.map(({ role }) => role)).toEqual(['branch']);
});
