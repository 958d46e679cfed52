import { expect, goTo, openDemo, test } from './workbench.js';

const address = (commands: string) => `try?text=${encodeURIComponent(commands)}&run=1`;

test('commands are rehearsed: what becomes of each row, what fills each value, and nothing of it stays', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  const commands = [
    "x = create Player with name 'Ines Ferro', email 'ines@new.example', branch Branch(1),",
    '  loans: (instrument Instrument(7), due_on today + 21 days)',
    'link Player(x).duet_partners to Player(3)',
    'link Player(3).duet_partners to Player(x)',
    "update Instrument(7) with name 'Renamed'",
  ].join('\n');
  await goTo(page, address(commands));
  const outcome = page.getByRole('status', { name: 'Outcome' });
  await expect(outcome).toContainText('2 rows created, 1 linked, 1 already linked, 1 updated');
  await expect(outcome).toContainText('Rehearsed: nothing of it stays.');
  const player = page.getByRole('table', { name: /Values of Player\(\d+\)/ }).first();
  await expect(player.getByRole('row', { name: /steward/ })).toContainText('default');
  await expect(player.getByRole('row', { name: /^id/ })).toContainText('number of the engine');
  const loan = page.getByRole('table', { name: /Values of Loan\(\d+\)/ });
  await expect(loan.getByRole('row', { name: /borrower/ })).toContainText('owner');
  await expect(loan.getByRole('row', { name: /due_on/ })).toContainText('2031-05-03');
  const log = page.getByRole('region', { name: 'Log' });
  await expect(log).toContainText('insert into players');
  await goTo(page, address("from Player\nwhere name = 'Ines Ferro'"));
  await expect(outcome).toContainText('0 rows of Player');
});

test('commands that are refused say why in the words of the design, which line, and that nothing was written', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await goTo(
    page,
    address(
      "create Ensemble with title 'Night Watch'\ncreate Loan with borrower Player(1), instrument Instrument(1), due_on '2020-01-01'",
    ),
  );
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('Line 2: A loan ends after it begins.');
  const commands = page.getByRole('list', { name: 'Commands' }).getByRole('listitem');
  await expect(commands.nth(0)).toContainText('Taken back');
  await expect(commands.nth(1)).toContainText('Refused');
});

test('a command stands in the place of a query by a click, and what is wrong in it is told as it is typed', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await goTo(page, 'try');
  const editor = page.getByRole('textbox', { name: 'Query or commands' });
  await expect(editor).toContainText('from Loan');
  await page.getByRole('button', { name: 'Rehearse commands…' }).click();
  await expect(editor).toContainText("create Branch with name 'New'");
  await page.getByRole('button', { name: /^Rehearse Ctrl/ }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('1 row created');
  await editor.click();
  await page.keyboard.press('Control+A');
  await page.keyboard.type("create Branch with nam 'x'");
  await page.getByRole('button', { name: /^Rehearse Ctrl/ }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('Did you mean name?');
});
