/** `npm run shots`: renews docs/screenshots/ from the demo. */
import { mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import Database from 'better-sqlite3';
import { generatedSchema } from '../bench/generated-schema.js';
import { serve } from '../server/index.js';
import { shootChanges } from './changes-shots.js';

/** A concert house that was there before: keys of two parts, pivots, a view, a trigger, a table without a key. */
const HOUSE = `
  create table halls (site text not null, number integer not null, seats integer, primary key (site, number)) without rowid;
  create table concerts (id integer primary key, site text not null, number integer not null, held_on date not null, title text,
    check (title <> ''), foreign key (site, number) references halls (site, number) on delete cascade);
  create table hall_keys (site text not null, number integer not null, holder text, primary key (site, number),
    foreign key (site, number) references halls (site, number));
  create table players (id integer primary key, name text not null, mentor_id integer references players (id));
  create table seats (concert_id integer not null references concerts (id), player_id integer not null references players (id),
    chair integer, primary key (concert_id, player_id));
  create table visits (player_id integer references players (id), concert_id integer references concerts (id), at integer);
  create table log (line text, at integer);
  create index late on concerts (held_on) where title is not null;
  create view sold_out as select * from concerts where id in (select concert_id from visits);
  create trigger logged after insert on concerts begin
    insert into log values ('concert ' || new.id, 0);
  end;
  insert into halls values ('North Quay', 1, 200), ('North Quay', 2, 80), ('South Gate', 1, 340);
  insert into concerts values (1, 'North Quay', 1, '2031-04-12', 'Bridge night'), (2, 'South Gate', 1, '2031-05-03', 'Reeds'), (3, 'North Quay', 2, '2031-06-01', null);
  insert into players values (1, 'Ines', null), (2, 'Omar', 1), (3, 'Tarn', 1);
  insert into seats values (1, 1, 1), (1, 2, 2), (2, 3, 1);
  insert into visits values (1, 2, 1), (2, 2, 1), (2, 2, 2), (3, 1, 5);
  insert into hall_keys values ('North Quay', 1, 'Ines');
`;

/** Lines of a file, two of which cannot be rows. */
const PLAYERS = [
  'Name,E-mail,branch,steward,joined',
  ...['Ada Quill', 'Bram Oake', 'Cleo Marsh', 'Dov Tarn', 'Edda Reed', 'Finn Holt', 'Gwen Ash', 'Hal Moor', 'Isla Fen'].map(
    (name, at) =>
      `${name},${name.toLowerCase().replace(' ', '.')}@cinder.example,${at === 3 ? 'Nowhere' : (['Hill Chapel', 'Kiln Row', 'North Quay'][at % 3] ?? '')},${at === 6 ? 'perhaps' : 'no'},2031-03-0${at + 1}`,
  ),
];

const FOLDER = 'docs/screenshots';
const data = mkdtempSync(join(tmpdir(), 'family-tree-shots-'));
mkdirSync(FOLDER, { recursive: true });
const given = join(mkdtempSync(join(tmpdir(), 'family-tree-shots-')), 'house');
mkdirSync(given);
const serving = await serve({ data, host: '127.0.0.1', port: 0, token: null, uploadLimit: 1e9, folder: given, quiet: true });
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });
const shoot = async (name: string) => {
  await page.waitForTimeout(700);
  await page.screenshot({ path: join(FOLDER, `${name}.png`) });
};

const base = `http://127.0.0.1:${serving.port}/`;
await fetch(`${base}api/preferences`, {
  method: 'PATCH',
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify({ tour: 'done' }),
});
await page.goto(base);
await page.getByText('The shelf is empty').waitFor();
await shoot('shelf');
await page.getByRole('button', { name: 'Open the demo' }).click();
await page.getByText(/✓ [\d,]+ rows/).waitFor();
const tree = /^.*\/tree\/[^/]+\//.exec(page.url())?.[0] ?? '';
const go = async (path: string) => {
  await page.goto(`${tree}${path}`);
  await page.getByText(/✓ [\d,]+ rows/).waitFor();
};
await go('design?select=entity:Loan');
await shoot('design-entity');
await go('design?select=relation:borrowing');
await page.getByText('What the rows say').waitFor();
await shoot('design-relation');
await go('design?select=entity:Instrument');
await page.getByRole('button', { name: 'Compare them' }).click();
await page.getByText('as it is now').waitFor({ timeout: 90_000 });
await page.getByRole('region', { name: 'Ways to store its kinds' }).scrollIntoViewIfNeeded();
await shoot('kinds-compared');
await go('design');
await page.getByRole('textbox', { name: 'Text of the tree' }).click();
await page.keyboard.press('Control+End');
await page.keyboard.insertText(
  "\nentity Login\n  id        integer key\n  password  text(80)\n  phone     bigint optional\n\nrelation noted, note 'A note on anything.'\n  Login knows at most one Player | Branch as about\n  stored in Login.about_type with Login.about_id without triggers\n",
);
await page.getByText(/^[2-9] findings/).waitFor();
const counted = () => page.getByText(/✓ [\d,]+ rows/).waitFor();
await page.getByText('renewing its rows').waitFor();
await counted();
// Without a reload, so that it can be taken back.
await page.getByRole('link', { name: /^Findings/ }).click();
await page.getByRole('button', { name: 'Hide it…' }).click();
await page.getByText('In the design').scrollIntoViewIfNeeded();
await page
  .getByText(/rows break the rule/)
  .first()
  .waitFor();
await shoot('findings');
await page.getByRole('button', { name: 'Leave it' }).click();
await page.getByRole('link', { name: /^Design/ }).click();
await page.getByRole('textbox', { name: 'Text of the tree' }).click();
await page.keyboard.press('Control+Z');
await page.getByText('1 finding').waitFor();
await page.waitForTimeout(2000);
await go('reach');
await page.getByRole('region', { name: 'What sees over a wall' }).waitFor();
await go(`try?as=Player(2)&text=${encodeURIComponent('from Player\nwhere id < 5\nload loans (lent_on)\norder by id')}`);
await page.getByRole('button', { name: /^Run/ }).click();
await page.getByRole('button', { name: 'Beside somebody else' }).click();
const besides = page.getByRole('region', { name: 'Beside somebody else' });
await besides.getByRole('combobox').fill('Ines Quill');
await page.getByRole('option', { name: 'Ines Quill 1', exact: true }).click();
await besides
  .getByRole('row', { name: /Player\(1\)/ })
  .getByRole('button', { name: 'why' })
  .click();
await besides.getByRole('region', { name: 'Why, as Player(2)' }).getByText('me.branch').first().waitFor();
await shoot('two-actors');
await go('share?as=');
const lines = page.getByRole('list', { name: 'Lines for a shell' });
await page.getByRole('combobox', { name: 'resources of' }).selectOption('loans');
await lines.getByRole('button', { name: /^remove one/ }).waitFor();
await page.getByRole('tab', { name: 'TypeScript' }).click();
const state = (await (await fetch(`${base}api/trees/${/tree\/([^/]+)/.exec(tree)?.[1]}/live`)).json()) as { base: string };
const live = `http://127.0.0.1:${serving.port}${state.base}`;
for (const path of ['loans?filter=overdue&include=borrower.branch', 'players/1', 'players/2/loans'])
  await fetch(`${live}/${path}`, { headers: { actor: 'Player(2)' } });
await page
  .getByRole('region', { name: 'Requests' })
  .getByRole('button', { name: /loans\?filter/ })
  .click();
await page.getByText('from Loan').first().waitFor();
await shoot('share');
await go('reach?as=');
const audit = page.getByRole('region', { name: 'The audit' });
await audit.getByRole('button', { name: 'Try every way' }).click();
await audit.getByText(/so far; [3-9]\d\d ways tried/).waitFor({ timeout: 120_000 });
await shoot('reach');
await audit.getByRole('button', { name: 'Stop' }).click();
await page.getByRole('link', { name: /^Design/ }).click();
const whole = readFileSync('demo/library.kin', 'utf8');
const open = ['  Loan where borrower.branch = me.branch\n', '  Loan where borrower = me\n'].reduce(
  (before, line) => before.replace(line, ''),
  whole.replace('  Card where player.branch = me.branch', '  Card where player.branch = me.branch or true'),
);
await page.getByRole('textbox', { name: 'Text of the tree' }).click();
await page.keyboard.press('Control+A');
await page.keyboard.insertText(open);
await page.getByText('renewing its rows').waitFor();
await counted();
await page.getByRole('link', { name: /^Reach/ }).click();
await audit.getByRole('button', { name: 'Try every way again' }).click();
await audit
  .getByText(/left open/)
  .first()
  .waitFor({ timeout: 120_000 });
await audit.getByRole('button', { name: 'Stop' }).click();
await audit.getByRole('button', { name: /^Write “Loan/ }).click();
await audit
  .getByRole('heading', { name: 'Does anything get round them?' })
  .evaluate((heading) => heading.scrollIntoView({ block: 'start' }));
await shoot('audit');
await audit.getByRole('button', { name: 'Leave it' }).click();
await page.getByRole('link', { name: /^Design/ }).click();
await page.getByRole('textbox', { name: 'Text of the tree' }).click();
await page.keyboard.press('Control+Z');
await page.getByText('renewing its rows').waitFor();
await counted();
await page.waitForTimeout(2000);
await go('rows/Loan?where=out&order=due_on');
await page.getByRole('button', { name: 'Open row 1', exact: true }).waitFor();
await page.getByRole('grid').focus();
const press = async (...keys: readonly string[]) => {
  for (const key of keys) await page.keyboard.press(key);
};
await press('ArrowDown', 'ArrowDown', 'ArrowRight', 'ArrowRight', 'ArrowRight');
await page.keyboard.type('2031-06-14');
await press('Enter');
await page.keyboard.type('2031-06-15');
await press('Enter', 'ArrowRight', 'ArrowRight', 'Enter');
await page.getByRole('combobox', { name: 'borrower' }).pressSequentially('ans');
await page.getByRole('option').first().waitFor();
await shoot('rows-editing');
await press('Escape');
await page.getByRole('button', { name: 'Discard' }).click();
await go('rows/Player');
await page.getByRole('button', { name: 'Files' }).click();
await page.getByRole('button', { name: 'Put rows in from a file' }).click();
await page
  .getByLabel('A CSV file')
  .setInputFiles({ name: 'players.csv', mimeType: 'text/csv', buffer: Buffer.from(PLAYERS.join('\r\n')) });
await page.getByRole('list', { name: 'Lines that are refused' }).waitFor();
await shoot('rows-import');
await page.getByRole('button', { name: 'Close' }).first().click();
await go('rows/Ensemble/1');
await page.getByRole('button', { name: 'Delete…' }).click();
await page.getByText('goes along').first().waitFor();
await shoot('row-delete');
await page.getByRole('button', { name: 'Leave it' }).click();
const listed =
  'from Loan\nwhere returned_on is null\nload borrower (name)\nload instrument (name) by row\norder by lent_on, id\nlimit 20';
await go(`try?text=${encodeURIComponent(listed)}&run=1`);
await page.getByRole('region', { name: 'Warnings' }).waitFor();
await page.getByRole('button', { name: 'measure the plans' }).click();
await page.getByRole('list', { name: 'Plan of statement 1' }).waitFor();
await shoot('try');
await page.getByRole('button', { name: 'Read a statement log…' }).click();
const asked = Array.from({ length: 200 }, (_, at) => `(0.4ms) select id, name, email from players where id = ${at} limit 1`);
const statements = [
  '(31ms) select * from loans where returned_on is null order by due_on',
  ...asked,
  "(90ms) select * from players where name = 'Ines Quill'",
];
await page.getByRole('textbox', { name: 'Or paste it' }).fill(statements.join('\n'));
await page.getByRole('button', { name: 'Read what is pasted' }).click();
await page.getByRole('region', { name: 'Asked once for each row' }).waitFor();
await shoot('try-log');
await page.keyboard.press('Escape');
await go('try?query=last_loans&run=1');
await page.getByRole('button', { name: 'Ways to load' }).click();
await page.getByRole('figure', { name: 'Milliseconds by rows, for each way' }).waitFor();
await page.getByText('measuring…').waitFor({ state: 'hidden' });
await shoot('try-ways');
const commands = [
  "x = create Player with name 'Ines Ferro', email 'ines@new.example', branch Branch(1),",
  '  loans: (instrument Instrument(7), due_on today + 21 days)',
  "e = create Ensemble with title 'Night Watch'",
  'link Player(x).ensembles to Ensemble(e) with chair 2',
  'link Player(x).duet_partners to Player(3)',
  'update Player(3).loans[overdue] with due_on due_on + 7 days',
];
await go(`try?text=${encodeURIComponent(commands.join('\n'))}&run=1`);
await page.getByRole('list', { name: 'Commands' }).waitFor();
await shoot('try-commands');
const house = join(given, 'house.db');
const database = new Database(house);
database.exec(HOUSE);
await page.goto(`${base}bring-in`);
await page.getByRole('button', { name: 'house.db' }).waitFor();
await shoot('bring-in');
database.close();
// Its own tree: the others are of the demo as it is.
const carried = await fetch(`${base}api/trees`, {
  method: 'POST',
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify({ from: 'demo' }),
}).then((answer) => answer.json() as Promise<{ id: string; text: string }>);
let revision = 1;
await shootChanges(page, {
  text: carried.text,
  shoot,
  go: async (path) => {
    await page.goto(`${base}tree/${carried.id}/${path}`);
    await page.getByText(/✓ [\d,]+ rows/).waitFor();
  },
  save: async (text) => {
    const saved = await fetch(`${base}api/trees/${carried.id}/text`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ text, basedOn: revision }),
    }).then((answer) => answer.json() as Promise<{ revision: number }>);
    revision = saved.revision;
  },
});
// A design as large as many have.
const largeText = generatedSchema(173);
const large = await fetch(`${base}api/trees`, {
  method: 'POST',
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify({ from: 'text', text: largeText }),
}).then((answer) => answer.json() as Promise<{ id: string }>);
await page.goto(`${base}tree/${large.id}/design`);
await page.getByText(/✓ [\d,]+ rows/).waitFor();
await page.getByRole('button', { name: 'Fit', exact: true }).click();
await shoot('large-map');
await browser.close();
await serving.close();
rmSync(data, { recursive: true, force: true });
rmSync(given, { recursive: true, force: true });
