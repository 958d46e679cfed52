import { useCallback, useState } from 'react';
import { Link } from 'react-router';
import type { ChangesPlanned, PlannedChanges } from '../../../contract/index.js';
import { failureMessage } from '../../app/api.js';
import { letGoOf } from '../../app/carry-out-plan.js';
import { plannedLink } from '../../app/links.js';
import { Button } from '../../parts/button.js';
import { Dialog } from '../../parts/dialog.js';
import { Panes } from '../../parts/panes.js';
import { Sql } from '../../parts/sql.js';
import { AnswersBox } from './answers.js';
import { CarryOut } from './carry-out.js';
import { DatabaseBar } from './database-bar.js';
import { DriftNotice } from './drift.js';
import { FormerNames } from './former-names.js';
import { HalfDone } from './half-done.js';
import { HistoryList } from './history.js';
import { NewDatabase } from './new-database.js';
import { RehearsalView } from './rehearsal.js';
import { ScriptView } from './script.js';
import { Steps } from './steps.js';
import { type Agreement, type ChangesTab, useChanges } from './use-changes.js';
import { useWork } from './use-work.js';

const TABS: readonly { readonly tab: ChangesTab; readonly title: string }[] = [
  { tab: 'steps', title: 'Steps' },
  { tab: 'rehearsal', title: 'Rehearsal' },
  { tab: 'script', title: 'Script' },
];

/** From design to database: what would happen to a database in use, what it asks, and doing it. */
export function ChangesScreen() {
  const changes = useChanges();
  const { tree, databases, database, loaded, error, look } = changes;
  const [adding, setAdding] = useState(false);
  if (error !== undefined && !loaded) return <p className="p-6 text-harm">{failureMessage(error)}</p>;
  if (!loaded) return <p className="p-6 text-ink-2">Looking for its databases…</p>;
  if (database === null)
    return (
      <div className="h-full overflow-auto px-8 py-6">
        <h2 className="font-serif text-[22px] font-semibold">Changes</h2>
        <div className="mt-3 max-w-[68ch] space-y-3 border border-line bg-label px-6 py-5">
          <p>
            This design has no database yet that it is carried over to: its rows are made from the text, anew after each change.
            Give it one, and each later change of the text is told here first: what would become otherwise, what has to be
            answered, and what would be lost.
          </p>
          <NewDatabase tree={tree} onAdded={look} />
        </div>
      </div>
    );
  return (
    <div className="flex h-full min-h-0 flex-col">
      <DatabaseBar tree={tree} databases={databases} database={database} onLook={look} onAdd={() => setAdding(true)} />
      <DatabaseChanges key={database.id} changes={changes} />
      {adding && (
        <Dialog title="Another database of this design" onClose={() => setAdding(false)}>
          <div className="p-5">
            <NewDatabase
              tree={tree}
              onAdded={(id) => {
                setAdding(false);
                look(id);
              }}
            />
          </div>
        </Dialog>
      )}
    </div>
  );
}

/** The plan for one database. */
function DatabaseChanges({ changes }: { readonly changes: ReturnType<typeof useChanges> }) {
  const { tree, database, planned, isSaved, answers, tab, goal, say, show, again, aim, agree, error } = changes;
  const work = useWork({ tree, database: database?.id ?? '' }, again);
  const { data, isFetching } = planned;
  const refetch = planned.refetch;
  const plan = data?.ok === true ? data : null;
  const rehearsed = work.rehearsed !== null && work.rehearsed.plan === plan?.plan ? work.rehearsed.value : null;
  const add = useCallback(
    (line: string) => say(answers === '' || answers.endsWith('\n') ? `${answers}${line}\n` : `${answers}\n${line}\n`),
    [say, answers],
  );
  const letGo = useCallback(
    async (number: number) => {
      const outcome = await letGoOf({ tree, database: database?.id ?? '' }, number);
      void refetch();
      if ('problem' in outcome) return outcome.problem;
      return outcome.value.ok ? null : outcome.value.problem;
    },
    [tree, database?.id, refetch],
  );
  if (database === null) return null;
  const ended = () => void refetch();
  return (
    <div className="min-h-0 flex-1">
      <Panes
        name="changes"
        direction="horizontal"
        share={66}
        first={
          <div className="flex h-full min-h-0 flex-col bg-sheet">
            <div className="flex shrink-0 items-center gap-4 border-b border-line px-6 pt-1.5">
              <div role="tablist" aria-label="The plan" className="flex gap-4">
                {TABS.map(({ tab: one, title }) => (
                  <button
                    key={one}
                    type="button"
                    role="tab"
                    aria-selected={tab === one}
                    className={`border-b-3 pb-1 ${tab === one ? 'border-selected font-semibold' : 'border-transparent text-ink-2 hover:text-ink'}`}
                    onClick={() => show(one)}
                  >
                    {title}
                  </button>
                ))}
              </div>
              {goal !== 'text' && (
                <span className="min-w-0 truncate text-small">
                  {goal === 'last'
                    ? 'Putting back what others changed'
                    : `Taking back ${plan?.undoes == null ? '' : `${plan.undoes.number}, “${plan.undoes.name}”`}`}{' '}
                  <button type="button" className="ml-1.5 underline underline-offset-2" onClick={() => aim('text')}>
                    Back to what the text says
                  </button>
                </span>
              )}
              <span className="ml-auto text-small whitespace-nowrap text-ink-2">
                {!isSaved
                  ? 'the text is being saved…'
                  : isFetching
                    ? 'looking at the rows…'
                    : plan !== null && goal === 'text'
                      ? `looked at in ${Math.round(plan.milliseconds)} ms`
                      : ''}
              </span>
              {plan !== null && Object.keys(plan.entities).length > 0 && goal === 'text' && (
                <Link
                  className="text-small whitespace-nowrap text-selected underline underline-offset-2"
                  to={plannedLink(tree, database.id)}
                >
                  On the map
                </Link>
              )}
              <button
                type="button"
                className="text-small whitespace-nowrap text-selected underline underline-offset-2 disabled:opacity-50"
                disabled={isFetching}
                onClick={() => void refetch()}
              >
                Look again
              </button>
            </div>
            <div className={`min-h-0 flex-1 overflow-auto ${isFetching && plan !== null ? 'opacity-60' : ''}`}>
              {error !== undefined && (
                <p role="alert" className="mx-6 mt-3 border-l-3 border-harm bg-label px-4 py-2">
                  {failureMessage(error)}
                </p>
              )}
              {planned.error !== undefined && <p className="p-6 text-harm">{failureMessage(planned.error)}</p>}
              {data === undefined && planned.error === undefined && (
                <p className="p-6 text-ink-2">Working out what would happen to its rows…</p>
              )}
              {data?.ok === false && <Refused refused={data} onAgree={agree} />}
              {data?.ok === false && data.left !== undefined && (
                <HalfDone tree={tree} database={database.id} left={data.left} onSettled={() => void refetch()} />
              )}
              {plan !== null && <Shown tab={tab} plan={plan} rehearsed={rehearsed} changes={changes} onSay={add} />}
            </div>
          </div>
        }
        second={
          <div className="h-full space-y-6 overflow-auto bg-sheet px-5 py-4">
            {plan !== null && (
              <CarryOut
                key={`${goal} ${plan.undoes?.number ?? 0}`}
                goal={goal}
                plan={plan}
                database={database}
                state={work.state}
                isStale={isFetching}
                isRehearsed={rehearsed !== null}
                onRehearse={(most) =>
                  void work.rehearse({ plan: plan.plan, most }).then((done) => (done ? show('rehearsal') : ended()))
                }
                onApply={(ask) =>
                  void work.apply(ask).then((done) => {
                    ended();
                    if (!done) return;
                    show('steps');
                    if (goal !== 'text') aim('text');
                  })
                }
                onStop={work.stop}
              />
            )}
            <AnswersBox answers={answers} onSay={say} />
            {plan !== null && (
              <HistoryList history={plan.history} undoing={goal === 'before'} onTakeBack={() => aim('before')} onLetGo={letGo} />
            )}
          </div>
        }
      />
    </div>
  );
}

function Shown({
  tab,
  plan,
  rehearsed,
  changes,
  onSay,
}: {
  readonly tab: ChangesTab;
  readonly plan: PlannedChanges;
  readonly rehearsed: NonNullable<ReturnType<typeof useWork>['rehearsed']>['value'] | null;
  readonly changes: ReturnType<typeof useChanges>;
  onSay(line: string): void;
}) {
  switch (tab) {
    case 'steps':
      return (
        <>
          {changes.database !== null && changes.goal === 'text' && (
            <DriftNotice tree={changes.tree} database={changes.database} onPutBack={() => changes.aim('last')} />
          )}
          <Steps plan={plan} goal={changes.goal} dialect={changes.database?.dialect ?? 'sqlite'} onSay={onSay} />
          {plan.changes.length === 0 && changes.goal === 'text' && (
            <FormerNames tree={changes.tree} databases={changes.databases} />
          )}
        </>
      );
    case 'rehearsal':
      return rehearsed === null ? (
        <p className="px-6 py-4 text-ink-2">
          This plan was not rehearsed yet. Rehearse it: it is carried out on a copy of the rows, and what came of it stands here.
        </p>
      ) : (
        <RehearsalView plan={plan} rehearsed={rehearsed} />
      );
    case 'script':
      return <ScriptView script={plan.script} back={rehearsed?.back ?? null} dialect={changes.database?.dialect ?? 'sqlite'} />;
  }
}

/** Why there is no plan; where the text states SQL of its own, that SQL, to be looked at first. */
function Refused({
  refused,
  onAgree,
}: {
  readonly refused: Extract<ChangesPlanned, { ok: false }>;
  onAgree(agreement: Agreement): void;
}) {
  const { problem, states } = refused;
  const [allTheSame, setAllTheSame] = useState(false);
  return (
    <div role="alert" className="m-6 border-l-3 border-harm bg-label px-4 py-3">
      <p className="break-words whitespace-pre-wrap">{problem}</p>
      {states !== undefined && (
        <>
          <div className="mt-2 max-h-72 overflow-auto border border-line bg-sheet px-3 py-2">
            <Sql text={states.statements.map(({ sql }) => sql).join('\n\n')} label="SQL to look at" />
          </div>
          {states.powers !== null && (
            <div className="mt-3 border-l-3 border-harm bg-sheet px-3 py-2">
              <p className="font-semibold">The login {states.powers}.</p>
              <p>Whatever stands above could do the same in its name. One that may change this database alone would do.</p>
              <label className="mt-1 flex items-baseline gap-2">
                <input type="checkbox" checked={allTheSame} onChange={(event) => setAllTheSame(event.target.checked)} />
                <span>Run it all the same, as this login</span>
              </label>
            </div>
          )}
          <Button
            strong
            className="mt-3"
            disabled={states.powers !== null && !allTheSame}
            onClick={() => onAgree({ agreed: states.statements.map(({ digest }) => digest), powers: states.powers !== null })}
          >
            I have read it: go on
          </Button>
        </>
      )}
    </div>
  );
}
