import { ChevronDown, ChevronRight } from 'lucide-react';
import { useState } from 'react';
import type { DesignDatabase, PlanGoal, PlannedChanges, ToldChange } from '../../../contract/index.js';
import { QuestionBox } from './question.js';
import { Statements } from './statements.js';
import { KINDS, rowsText, VERDICTS } from './verdicts.js';

/** What would become otherwise, as sentences: what is new, what changes, what goes; each with its SQL, its rows and what it asks. */
export function Steps({
  plan,
  goal,
  dialect,
  onSay,
}: {
  readonly plan: PlannedChanges;
  readonly goal: PlanGoal;
  readonly dialect: DesignDatabase['dialect'];
  onSay(line: string): void;
}) {
  const { changes, questions, faults, byHand } = plan;
  const told = new Set(changes.map(({ id }) => id));
  const apart = questions.filter(({ of }) => !told.has(of));
  return (
    <div className="space-y-4 px-6 py-4">
      <p role="status" aria-label="What would happen" className="font-serif text-title">
        {summary(plan, goal)}
      </p>
      {faults.map((fault) => (
        <p key={fault} role="alert" className="border-l-3 border-harm bg-label px-4 py-2 break-words">
          {fault}
        </p>
      ))}
      {apart.map((question) => (
        <QuestionBox key={`${question.kind} ${question.of}`} question={question} onSay={onSay} />
      ))}
      {KINDS.map(({ kind, title }) => {
        const own = changes.filter((change) => change.kind === kind);
        return own.length === 0 ? null : (
          <section key={kind} aria-label={title}>
            <h3 className="flex items-baseline gap-3 border-b border-line-2 pb-1 font-serif font-semibold">
              {title} <span className="font-mono text-small font-normal text-ink-2">{own.length}</span>
            </h3>
            <ul>
              {own.map((change) => (
                <ChangeItem key={change.id} change={change} plan={plan} dialect={dialect} onSay={onSay} />
              ))}
            </ul>
          </section>
        );
      })}
      {byHand.length > 0 && (
        <section aria-label="By hand">
          <h3 className="border-b border-line-2 pb-1 font-serif font-semibold">By hand</h3>
          <ul>
            {byHand.map((words) => (
              <li key={words} className="border-b border-line py-1 break-words last:border-0">
                {words}
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

/** What is told of a plan that has nothing to do, and what its changes do. */
const GOALS: Readonly<Record<PlanGoal, { readonly nothing: string; readonly one: string; readonly many: string }>> = {
  text: { nothing: '✓ Nothing to do: the database is as the text says.', one: '', many: '' },
  before: { nothing: '✓ Nothing of it is left to take back.', one: ' takes it back', many: ' take it back' },
  last: {
    nothing: '✓ Nothing to put back: the database is as it was last changed from here.',
    one: ' puts it back',
    many: ' put it back',
  },
};

function summary({ changes, questions }: PlannedChanges, goal: PlanGoal): string {
  const { nothing, one, many } = GOALS[goal];
  if (changes.length === 0 && questions.length === 0) return nothing;
  const parts = (Object.keys(VERDICTS) as ToldChange['verdict'][]).flatMap((verdict) => {
    const count = changes.filter((change) => change.verdict === verdict).length;
    if (count === 0) return [];
    const words =
      verdict === 'needs an answer' && count > 1
        ? 'need an answer'
        : verdict === 'loses data' && count > 1
          ? 'lose data'
          : verdict;
    return [`${count} ${words}`];
  });
  const count = changes.length === 1 ? `1 change${one}` : `${changes.length.toLocaleString('en')} changes${many}`;
  return `${count}: ${parts.join(', ')}.`;
}

function ChangeItem({
  change,
  plan,
  dialect,
  onSay,
}: {
  readonly change: ToldChange;
  readonly plan: PlannedChanges;
  readonly dialect: DesignDatabase['dialect'];
  onSay(line: string): void;
}) {
  const [open, setOpen] = useState(false);
  const { sign, look, words } = VERDICTS[change.verdict];
  const questions = plan.questions.filter(({ of }) => of === change.id);
  const statements = plan.operations.filter(({ table }) => table === change.table);
  const sharing = plan.changes.filter(({ table }) => table === change.table).length - 1;
  const Chevron = open ? ChevronDown : ChevronRight;
  return (
    <li className="border-b border-line last:border-0">
      <div className="grid grid-cols-[20px_minmax(0,1fr)_auto_20px] items-baseline gap-2 py-1">
        <span className={`text-center font-semibold ${look}`} title={words}>
          <span aria-hidden="true">{sign}</span>
          <span className="sr-only">{words}: </span>
        </span>
        <span className="break-words">{change.sentence}</span>
        <span className="font-mono text-small whitespace-nowrap text-ink-2">
          {change.rows > 0 && rowsText(change.rows)}
          {change.lost > 0 && <span className="text-harm">, {change.lost.toLocaleString('en')} lost</span>}
        </span>
        {statements.length === 0 ? (
          <span />
        ) : (
          <button
            type="button"
            aria-expanded={open}
            aria-label={`SQL of: ${change.sentence}`}
            title="Its SQL"
            className="self-center text-ink-2 hover:text-ink"
            onClick={() => setOpen(!open)}
          >
            <Chevron size={16} />
          </button>
        )}
      </div>
      {questions.map((question) => (
        <QuestionBox key={`${question.kind} ${question.sentence}`} question={question} onSay={onSay} />
      ))}
      {open && (
        <div className="mb-2 ml-7 border-l-3 border-line-2 bg-label px-4 py-2">
          {sharing > 0 && (
            <p className="mb-1 text-small text-ink-2">
              These statements make all {sharing + 1} changes of {change.table}.
            </p>
          )}
          <Statements plan={plan} table={change.table} dialect={dialect} onSay={onSay} />
        </div>
      )}
    </li>
  );
}
