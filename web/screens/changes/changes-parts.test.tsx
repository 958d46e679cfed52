import { cleanup, render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, describe, expect, test, vi } from 'vitest';
import type { DesignDatabase, PlannedChanges, ToldHistory } from '../../../contract/index.js';
import { readAnswers } from '../../../core/changes/index.js';
import { CarryOut } from './carry-out.js';
import { HistoryList } from './history.js';
import { QuestionBox } from './question.js';
import { RehearsalView } from './rehearsal.js';
import { ScriptView } from './script.js';
import { Steps } from './steps.js';

const NOTHING: PlannedChanges = {
  ok: true,
  plan: '1-1',
  revision: 3,
  changes: [],
  questions: [],
  faults: [],
  byHand: [],
  operations: [],
  script: '',
  locks: 'Nobody else writes to the file.',
  undoes: null,
  history: [],
  entities: {},
  milliseconds: 12,
};

const adding = (over: Partial<PlannedChanges> = {}): PlannedChanges => ({
  ...NOTHING,
  changes: [
    {
      id: 'column makers.motto',
      kind: 'new',
      subject: 'column',
      table: 'makers',
      sentence: 'makers.motto is new: text, optional.',
      verdict: 'safe',
      rows: 0,
      lost: 0,
    },
    {
      id: 'gone column players.portrait',
      kind: 'gone',
      subject: 'column',
      table: 'players',
      sentence: 'players.portrait goes, with its values.',
      verdict: 'loses data',
      rows: 24,
      lost: 24,
    },
  ],
  operations: [
    { sql: 'alter table makers add column motto text', what: 'a column is new', table: 'makers', byHand: false },
    { sql: 'alter table players drop column portrait', what: 'a column goes', table: 'players', byHand: false },
    { sql: 'drop index one', what: 'an index goes', table: 'players', byHand: false },
    { sql: 'drop index two', what: 'an index goes', table: 'players', byHand: false },
    { sql: 'analyze players', what: 'by hand, a step', table: 'players', byHand: true },
  ],
  script: 'begin;\ncommit;',
  ...over,
});

const FILE: DesignDatabase = {
  id: 'one',
  label: 'local',
  kind: 'file',
  dialect: 'sqlite',
  where: 'a file of the data folder',
  typed: null,
  download: true,
};
const SERVER: DesignDatabase = { ...FILE, kind: 'server', dialect: 'postgres', typed: 'library', download: false };

afterEach(cleanup);

describe('a question', () => {
  const question = {
    kind: 'required',
    of: 'column makers.motto',
    table: 'makers',
    sentence: 'makers.motto is required, and 7 rows of makers would have no value there.',
    rows: 7,
    examples: Array.from({ length: 9 }, (_, at) => ({ shown: `'value ${at}'`, rows: at + 1 })),
    look: [],
    ways: [
      { line: 'value makers.motto = …', does: 'an expression gives the value' },
      { line: 'leave out makers.motto', does: 'these rows go' },
    ],
  };

  test('is answered by a line once what it leaves open is said', async () => {
    const say = vi.fn();
    render(<QuestionBox question={question} onSay={say} />);
    const [first, second] = screen.getAllByRole('button', { name: 'Answer' });
    expect((first as HTMLButtonElement).disabled).toBe(true);
    await userEvent.click(screen.getByRole('textbox', { name: 'an expression gives the value' }));
    await userEvent.keyboard("'by hand'");
    await userEvent.click(first as HTMLElement);
    await userEvent.click(second as HTMLElement);
    expect(say.mock.calls).toEqual([["value makers.motto = 'by hand'"], ['leave out makers.motto']]);
  });

  test('shows some of its values, and the others when asked', async () => {
    render(<QuestionBox question={question} onSay={() => undefined} />);
    expect(within(screen.getByRole('list', { name: 'Values' })).queryByText("'value 8'")).toBeNull();
    await userEvent.click(screen.getByRole('button', { name: '3 more' }));
    expect(screen.getByRole('list', { name: 'Values' }).textContent).toContain("'value 8' × 9");
  });
});

describe('a question about doubles', () => {
  const row = (id: string, town: string | null) => ({
    values: [
      { column: 'id', shown: id },
      { column: 'town', shown: town },
    ],
    keep: `keep makers (email) rows ${id}`,
  });
  const question = {
    kind: 'doubles',
    of: 'unique makers.email',
    table: 'makers',
    sentence: '4 rows of makers are not alone with their email, which is to be unique.',
    rows: 4,
    examples: [],
    look: [
      [row('1', 'Ferren'), row('2', null)],
      [row('3', 'Marsh'), row('4', 'Quay')],
    ],
    ways: [{ line: 'keep makers (email) by … desc', does: 'of each the first in this order stays' }],
  };

  test('shows those that are alike together, and keeps the one that is chosen', async () => {
    const say = vi.fn();
    render(<QuestionBox question={question} onSay={say} />);
    const groups = within(screen.getByRole('table', { name: 'Rows that it is about' }))
      .getAllByRole('rowgroup')
      .slice(1);
    expect(groups.map((group) => within(group).getAllByRole('row').length)).toEqual([2, 2]);
    await userEvent.click(screen.getByRole('button', { name: 'Keep 2, nothing' }));
    await userEvent.click(screen.getByRole('button', { name: 'Keep 3, Marsh' }));
    expect(say.mock.calls).toEqual([['keep makers (email) rows 2'], ['keep makers (email) rows 3']]);
  });
});

test('a question says of how many rows it shows the first', () => {
  const seen = { values: [{ column: 'id', shown: '1' }], keep: null };
  const question = {
    kind: 'empty',
    of: 'loans.fee',
    table: 'loans',
    sentence: 'No fee.',
    examples: [],
    look: [[seen]],
    ways: [],
  };
  render(<QuestionBox question={{ ...question, rows: 1 }} onSay={vi.fn()} />);
  expect(screen.queryByText(/^The first/)).toBeNull();
  cleanup();
  render(<QuestionBox question={{ ...question, rows: 1_600 }} onSay={vi.fn()} />);
  expect(screen.getByText('The first 1 of 1,600 rows.')).toBeTruthy();
});

describe('the steps of a plan', () => {
  const steps = (plan: PlannedChanges, goal: 'text' | 'before' | 'last' = 'text', say = vi.fn()) => {
    render(<Steps plan={plan} goal={goal} dialect="sqlite" onSay={say} />);
    return say;
  };

  test.each([
    ['text', '✓ Nothing to do: the database is as the text says.'],
    ['before', '✓ Nothing of it is left to take back.'],
    ['last', '✓ Nothing to put back: the database is as it was last changed from here.'],
  ] as const)('of nothing say so, when the aim is %s', (goal, words) => {
    steps(NOTHING, goal);
    expect(screen.getByRole('status').textContent).toBe(words);
  });

  test('are summed up by verdict, and stand under what is new and what goes', () => {
    steps(adding());
    expect(screen.getByRole('status').textContent).toBe('2 changes: 1 safe, 1 loses data.');
    expect(screen.getByRole('region', { name: 'New' }).textContent).toContain('makers.motto is new');
    expect(screen.getByRole('region', { name: 'Goes' }).textContent).toContain('24 lost');
    expect(screen.queryByRole('region', { name: 'Changes' })).toBeNull();
  });

  test('tell what is done by hand, and what keeps a plan from being carried out', () => {
    steps(adding({ byHand: ['By hand after “plan”: analyze'], faults: ['keep tags (label): no such column.'] }), 'last');
    expect(screen.getByRole('status').textContent).toBe('2 changes put it back: 1 safe, 1 loses data.');
    expect(screen.getByRole('alert').textContent).toBe('keep tags (label): no such column.');
    expect(screen.getByRole('region', { name: 'By hand' }).textContent).toContain('analyze');
  });

  test('take a statement of a person’s own, as lines that answers can be read from', async () => {
    const say = steps(adding());
    await userEvent.click(screen.getByRole('button', { name: /^SQL of: makers.motto/ }));
    await userEvent.click(screen.getByRole('button', { name: 'By hand, at: a column is new' }));
    const dialog = screen.getByRole('dialog');
    const put = within(dialog).getByRole('button', { name: 'Put it in' }) as HTMLButtonElement;
    await userEvent.click(within(dialog).getByRole('radio', { name: 'in its place' }));
    const statement = within(dialog).getByRole('textbox', { name: 'Statement' }) as HTMLTextAreaElement;
    expect(statement.value).toBe('alter table makers add column motto text');
    expect(put.disabled).toBe(true);
    await userEvent.clear(statement);
    await userEvent.type(statement, 'rollback');
    await userEvent.click(within(dialog).getByRole('checkbox', { name: /no way back/ }));
    await userEvent.click(put);
    expect(within(dialog).getByRole('alert').textContent).toContain('beyond the plan');
    expect(say).not.toHaveBeenCalled();
    await userEvent.clear(statement);
    await userEvent.type(statement, 'alter table makers{enter}add motto text');
    await userEvent.click(put);
    const { answers, faults } = readAnswers(String(say.mock.calls[0]?.[0]));
    expect(faults).toEqual([]);
    expect(answers.byHand).toEqual([
      {
        on: 'sqlite',
        where: 'instead of',
        table: 'makers',
        what: 'a column is new',
        sql: 'alter table makers\nadd motto text',
        back: null,
      },
    ]);
    expect(screen.queryByRole('dialog')).toBeNull();
  });

  test('let no statement take the place of several that are told alike, nor of one by hand', async () => {
    steps(adding());
    await userEvent.click(screen.getByRole('button', { name: /^SQL of: players.portrait/ }));
    expect(screen.queryByRole('button', { name: 'By hand, at: by hand, a step' })).toBeNull();
    const [first] = screen.getAllByRole('button', { name: 'By hand, at: an index goes' });
    await userEvent.click(first as HTMLElement);
    expect(screen.queryByRole('radio', { name: 'in its place' })).toBeNull();
  });
});

describe('carrying a plan out', () => {
  const shown = (plan: PlannedChanges, database: DesignDatabase) => {
    const [rehearse, apply] = [vi.fn(), vi.fn()];
    render(
      <CarryOut
        plan={plan}
        goal="text"
        database={database}
        state={{ kind: 'none' }}
        isStale={false}
        isRehearsed={false}
        onRehearse={rehearse}
        onApply={apply}
        onStop={() => undefined}
      />,
    );
    return { rehearse, apply, button: (name: string) => screen.getByRole('button', { name }) as HTMLButtonElement };
  };

  test('needs a name, that what is lost is agreed to, and on a server that its database is typed', async () => {
    const { apply, button } = shown(adding(), SERVER);
    expect(button('Apply').disabled).toBe(true);
    await userEvent.type(screen.getByRole('textbox', { name: 'Name' }), ' mottos ');
    expect(screen.getByText('Agree to the loss first.')).toBeDefined();
    await userEvent.click(screen.getByRole('checkbox', { name: /24 rows lose a value/ }));
    expect(screen.getByText('Type library, the name of the database on its server.')).toBeDefined();
    await userEvent.type(screen.getByRole('textbox', { name: /The name of the database, typed/ }), 'library');
    await userEvent.click(button('Apply'));
    expect(apply).toHaveBeenCalledWith({ plan: '1-1', name: 'mottos', allowLoss: true, typed: 'library' });
  });

  test('is rehearsed on as many rows of a server as a person says', async () => {
    const { rehearse, button } = shown(adding(), SERVER);
    const most = screen.getByRole('textbox', { name: /of at most/ });
    await userEvent.clear(most);
    await userEvent.type(most, '1e9');
    expect(button('Rehearse').disabled).toBe(true);
    await userEvent.clear(most);
    await userEvent.type(most, '5000');
    await userEvent.click(button('Rehearse'));
    expect(rehearse).toHaveBeenCalledWith(5000);
  });

  test('waits for what is open, and asks a file for no number of rows', () => {
    const { button } = shown(adding({ operations: [], faults: ['A line that does not stand.'] }), FILE);
    expect(button('Rehearse').disabled).toBe(true);
    expect(screen.getByText('One thing is open: answer first.')).toBeDefined();
    expect(screen.queryByRole('textbox', { name: /of at most/ })).toBeNull();
  });
});

describe('the history', () => {
  const entry = (number: number, over: Partial<ToldHistory> = {}): ToldHistory => ({
    number,
    name: `change ${number}`,
    at: '2031-04-12T09:00:00.000000Z',
    milliseconds: 4,
    rows: 7,
    state: 'applied',
    undoes: null,
    changes: ['makers.motto is new.'],
    textBefore: 'entity Maker\n',
    textAfter: 'entity Maker\n  motto text\n',
    asides: [],
    ...over,
  });

  test('offers a way back for the newest that stands', async () => {
    const back = vi.fn();
    const history = [entry(4, { undoes: 3 }), entry(3, { state: 'undone' }), entry(2), entry(1, { changes: [] })];
    render(<HistoryList history={history} undoing={false} onTakeBack={back} onLetGo={() => Promise.resolve(null)} />);
    const items = screen.getAllByRole('listitem');
    expect(items[1]?.textContent).toContain('taken back');
    await userEvent.click(within(items[2] as HTMLElement).getByRole('button', { name: 'Take back…' }));
    expect(back).toHaveBeenCalledTimes(1);
    expect(screen.getAllByRole('button', { name: 'Take back…' })).toHaveLength(1);
  });

  test('lets go of what is kept aside once that was asked for twice, and says why it could not', async () => {
    const letGo = vi.fn(() => Promise.resolve('It is kept aside no more.'));
    render(
      <HistoryList
        history={[entry(2, { asides: ['family_tree_kept_2_1'] })]}
        undoing={false}
        onTakeBack={() => undefined}
        onLetGo={letGo}
      />,
    );
    await userEvent.click(screen.getByRole('button', { name: 'change 2' }));
    expect(screen.getByRole('dialog').textContent).toContain('family_tree_kept_2_1');
    await userEvent.click(screen.getByRole('button', { name: 'Let go of it…' }));
    expect(letGo).not.toHaveBeenCalled();
    await userEvent.click(screen.getByRole('button', { name: 'Yes, let go of it: it does not come back' }));
    expect(letGo).toHaveBeenCalledWith(2);
    expect((await screen.findByRole('alert')).textContent).toBe('It is kept aside no more.');
  });
});

describe('what came of a rehearsal', () => {
  const rehearsed = {
    kind: 'rehearsed' as const,
    milliseconds: [1, 2, 3, 4, 5],
    tables: [{ before: 'makers', after: 'makers', rowsBefore: 7, rowsAfter: 6, changed: [] }],
    unheld: ['1 row of Maker has no name.'],
    back: '',
    part: 'A part of 68 rows, in which every key leads somewhere.',
  };

  test('says of what part it is, what the rows do not hold to, and how many there are', () => {
    render(<RehearsalView plan={adding()} rehearsed={rehearsed} />);
    expect(screen.getByText(/A part of 68 rows/)).toBeDefined();
    expect(screen.getByRole('list', { name: 'What the rows do not hold to' }).textContent).toContain('has no name');
    expect(screen.getByRole('region', { name: 'Tables before and after' }).textContent).toContain('7 rows → 6 rows');
  });

  test('has a script back, where what takes it back asks nothing', () => {
    render(<ScriptView script="begin;" back={null} dialect="sqlite" />);
    expect(screen.getByText(/is worked out on the copy/)).toBeDefined();
    cleanup();
    render(<ScriptView script="begin;" back="" dialect="sqlite" />);
    expect(screen.getByText(/asks something first/)).toBeDefined();
    cleanup();
    render(<ScriptView script="begin;" back="rollback;" dialect="postgres" />);
    expect(screen.getByRole('region', { name: 'Script back' }).textContent).toContain('rollback');
  });
});
