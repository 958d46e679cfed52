import { useId, useState } from 'react';
import {
  type ApplyPlanAsk,
  type DesignDatabase,
  MOST_REHEARSED,
  type PlanGoal,
  type PlannedChanges,
} from '../../../contract/index.js';
import { Button } from '../../parts/button.js';
import { Input } from '../../parts/input.js';
import { ShareBar } from '../../parts/share-bar.js';
import type { WorkState } from './use-work.js';
import { rowsText, timeText } from './verdicts.js';

/** Rehearsing a plan, and applying it under a name. */
export function CarryOut({
  plan,
  goal,
  database,
  state,
  isStale,
  isRehearsed,
  onRehearse,
  onApply,
  onStop,
}: {
  readonly plan: PlannedChanges;
  readonly goal: PlanGoal;
  readonly database: DesignDatabase;
  readonly state: WorkState;
  /** Another plan is being made. */
  readonly isStale: boolean;
  readonly isRehearsed: boolean;
  /** @param most so many rows of a server are rehearsed on */
  onRehearse(most: number): void;
  onApply(ask: ApplyPlanAsk): void;
  onStop(): void;
}) {
  const { undoes } = plan;
  const suggested =
    goal === 'last' ? 'Puts back what others changed' : undoes === null ? '' : `Takes back ${undoes.number}, ${undoes.name}`;
  const [name, setName] = useState(suggested);
  const [agreed, setAgreed] = useState(false);
  const [typed, setTyped] = useState('');
  const [most, setMost] = useState(String(MOST_REHEARSED));
  const why = useId();
  const lost = plan.changes.reduce((sum, change) => sum + change.lost, 0);
  const loses = plan.changes.some(({ verdict }) => verdict === 'loses data');
  const open = plan.questions.length + plan.faults.length;
  const isBusy = isStale || state.kind === 'working';
  const isNothing = plan.operations.length === 0;
  const lacks =
    open > 0
      ? `${open === 1 ? 'One thing is' : `${open} things are`} open: answer first.`
      : name.trim() === ''
        ? 'Give it a name, which the history bears.'
        : loses && !agreed
          ? 'Agree to the loss first.'
          : database.typed !== null && typed !== database.typed
            ? `Type ${database.typed}, the name of the database on its server.`
            : null;
  if (isNothing && open === 0 && undoes === null) return <Told state={state} onStop={onStop} />;
  return (
    <section aria-label="Carry it out" className="space-y-2">
      <h3 className="border-b border-line-2 pb-1 font-serif font-semibold">Carry it out</h3>
      <Told state={state} onStop={onStop} />
      <p className="flex items-center gap-3">
        <Button
          strong={!isRehearsed}
          className="whitespace-nowrap"
          disabled={isBusy || open > 0 || isNothing || !isCount(most)}
          onClick={() => onRehearse(Number(most))}
        >
          {isRehearsed ? 'Rehearse again' : 'Rehearse'}
        </Button>
        <span className="text-small text-ink-2">on a copy of the rows; nothing of it stays</span>
      </p>
      {database.kind !== 'file' && (
        <label className="flex items-center gap-2 text-small text-ink-2">
          of at most
          <Input code inputMode="numeric" className="w-28" value={most} onChange={(event) => setMost(event.target.value)} />
          rows; of more, a part that keeps its relations
        </label>
      )}
      <form
        className="space-y-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (lacks === null)
            onApply({ plan: plan.plan, name: name.trim(), allowLoss: agreed, typed: database.typed === null ? null : typed });
        }}
      >
        <label className="block">
          <span className="text-small text-ink-2">Name</span>
          <Input
            className="block w-full"
            value={name}
            placeholder="towns are required"
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        {loses && open === 0 && (
          <label className="flex items-baseline gap-2 border-l-3 border-harm bg-label px-3 py-1.5">
            <input type="checkbox" checked={agreed} onChange={(event) => setAgreed(event.target.checked)} />
            <span>
              {lost > 0 ? `${rowsText(lost)} lose a value, or go.` : 'Something is lost.'}{' '}
              <span className="text-ink-2">What goes is kept aside in the database, and comes back when this is taken back.</span>
            </span>
          </label>
        )}
        {database.typed !== null && (
          <label className="block">
            <span className="text-small text-ink-2">
              The name of the database, typed: <span className="font-mono">{database.typed}</span>
            </span>
            <Input
              code
              className="block w-full"
              value={typed}
              spellCheck={false}
              onChange={(event) => setTyped(event.target.value)}
            />
          </label>
        )}
        <p className="flex items-center gap-3">
          <Button
            type="submit"
            className="whitespace-nowrap"
            strong={isRehearsed}
            disabled={isBusy || lacks !== null}
            aria-describedby={why}
          >
            {goal === 'text' ? 'Apply' : goal === 'before' ? 'Take it back' : 'Put it back'}
          </Button>
          <span id={why} className="text-small text-ink-2">
            {lacks ?? plan.locks}
          </span>
        </p>
      </form>
    </section>
  );
}

function isCount(written: string): boolean {
  return /^[1-9][0-9]{0,7}$/.test(written.trim());
}

/** What is under way, or came of it. */
function Told({ state, onStop }: { readonly state: WorkState; onStop(): void }) {
  switch (state.kind) {
    case 'none':
      return null;
    case 'working':
      return (
        <div role="status" aria-label="Progress" className="border border-line-2 bg-label px-3 py-2">
          <p className="truncate" title={state.step.what}>
            {state.step.what}…
          </p>
          {state.step.share !== undefined && (
            <div className="mt-1 flex">
              <ShareBar label="Done" share={state.step.share} />
            </div>
          )}
          <Button className="mt-2" onClick={onStop}>
            Stop
          </Button>
        </div>
      );
    case 'refused':
      return (
        <p
          role="alert"
          className="max-h-60 overflow-auto border-l-3 border-harm bg-label px-3 py-2 break-words whitespace-pre-wrap"
        >
          {state.problem}
        </p>
      );
    case 'moved':
      return (
        <div role="alert" className="border-l-3 border-to-many bg-label px-3 py-2">
          <p>The database has changed since the plan was made, so nothing was done. The plan is made again.</p>
          <ul className="mt-1 list-disc pl-4 text-small">
            {state.differs.map((line) => (
              <li key={line} className="break-words">
                {line}
              </li>
            ))}
          </ul>
        </div>
      );
    case 'applied': {
      const { number, name, milliseconds, rows, before } = state.applied;
      return (
        <div role="status" aria-label="Applied" className="border-l-3 border-fine bg-label px-3 py-2">
          <p>
            ✓ Done as number {number}, “{name}”: {rowsText(rows)} written in {timeText(milliseconds)}.
          </p>
          {before !== null && (
            <p className="mt-1 text-small text-ink-2">
              As it was before, it stands in <span className="font-mono break-all">{before}</span>.
            </p>
          )}
        </div>
      );
    }
  }
}
