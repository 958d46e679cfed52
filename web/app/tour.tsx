import { useState } from 'react';
import { useNavigate } from 'react-router';
import { Button } from '../parts/button.js';
import { workAtAudit } from './audits.js';
import { preferences } from './preferences.js';
import { store, useAppDispatch } from './store.js';
import { textChanged } from './workspace.js';

interface Step {
  readonly title: string;
  readonly words: string;
  readonly act: string;
}

const STEPS: readonly Step[] = [
  {
    title: 'One relation, stated once',
    words:
      'The map shows every entity below those whose key it holds. A stem is a relation; its card says where it is stored, and why.',
    act: 'Select “borrowing”',
  },
  {
    title: 'What you write is there a second later',
    words:
      'This writes an entity and a relation behind the others. The map, the tables and a scratch database with rows follow. Undo takes it back.',
    act: 'Write “Shelf” into the text',
  },
  {
    title: 'Rows, over the relations',
    words:
      'Every entity’s rows, with what they point at as links. A count opens the rows that it counts; a condition of the notation filters.',
    act: 'Look at the loans',
  },
  {
    title: 'What a query really asks',
    words:
      'Five statements for any number of rows: each with its parameters, its time and its plan, tied to the line that caused it.',
    act: 'Open the overdue loans',
  },
  {
    title: 'A wall taken away, and what gets out',
    words:
      'This takes the lines for loans out of the walls, and tries every way to rows as each kind of actor. The row that gets out is named, with the line that closes it. Undo takes it back.',
    act: 'Take the wall of the loans away',
  },
  {
    title: 'The rest is one key away',
    words:
      'Ctrl K finds everything that can be done, also under the words that you are used to. ? shows the notation and the keys.',
    act: 'Open the palette',
  },
];

const SHELF = `

entity Shelf
  id     integer key
  label  text(20)
  shown as label

relation shelving
  Instrument knows at most one Shelf as shelf
  Shelf knows many Instrument as instruments
`;

/** What keeps loans from whoever does not borrow them. */
const LOAN_LINES = ['  Loan where borrower.branch = me.branch\n', '  Loan where borrower = me\n'];

/** So long it takes to save a text at most, in milliseconds, before an audit is begun all the same. */
const LONGEST_SAVE = 10_000;

/** Begins an audit as soon as what was changed is saved: it is the saved text that is audited. */
async function auditOnceSaved(tree: string): Promise<void> {
  const until = performance.now() + LONGEST_SAVE;
  const isSaved = () => store.getState().workspace.text === store.getState().workspace.base;
  while (!isSaved() && performance.now() < until) await new Promise((done) => setTimeout(done, 100));
  await store.dispatch(workAtAudit(tree, null));
}

/** Six steps that do things on the real page, in a strip above it that covers none of it; it can be put away at any time. */
export function Tour({ tree, onPalette, onClose }: { readonly tree: string; onPalette(): void; onClose(): void }) {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const [at, setAt] = useState(0);
  const step = STEPS[at];
  if (step === undefined) return null;
  const end = () => {
    preferences.setItem('tour', 'done');
    onClose();
  };
  const act = () => {
    const { text, view } = store.getState().workspace;
    if (at === 0) void navigate(`/tree/${tree}/design?select=relation:borrowing`);
    if (at === 1) {
      if (!text.includes('entity Shelf')) dispatch(textChanged(`${text.trimEnd()}${SHELF}`, 'the tour'));
      void navigate(`/tree/${tree}/design?select=entity:Shelf`);
    }
    if (at === 2) void navigate(`/tree/${tree}/rows/Loan`);
    if (at === 3) {
      const query = view?.queries.find(({ name }) => name === 'overdue_by_branch') ?? view?.queries[0];
      void navigate(`/tree/${tree}/try?query=${query?.name ?? ''}&p.branch=1&run=1`);
    }
    if (at === 4) {
      const open = LOAN_LINES.reduce((before, line) => before.replace(line, ''), text);
      if (open !== text) dispatch(textChanged(open, 'the tour'));
      void navigate(`/tree/${tree}/reach`);
      void auditOnceSaved(tree);
    }
    if (at === 5) {
      end();
      onPalette();
      return;
    }
    setAt(at + 1);
  };
  return (
    <aside aria-label="Tour" className="flex items-center gap-5 border-b border-line-2 bg-label px-4 py-2">
      <p className="text-small whitespace-nowrap text-ink-3">
        {at + 1} of {STEPS.length}
      </p>
      <div className="min-w-0 flex-1">
        <h2 className="font-serif font-semibold">{step.title}</h2>
        <p className="max-w-[90ch] text-small text-ink-2">{step.words}</p>
      </div>
      <Button strong onClick={act}>
        {step.act}
      </Button>
      <button type="button" className="text-small whitespace-nowrap text-ink-2 underline" onClick={end}>
        I’ll look around myself
      </button>
    </aside>
  );
}
