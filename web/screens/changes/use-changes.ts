import { useCallback, useMemo, useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import type { DesignDatabase, PlanGoal } from '../../../contract/index.js';
import { api, useDesignDatabasesQuery, useKeepAnswersMutation, usePlanQuery } from '../../app/api.js';
import { useAppDispatch, useAppSelector } from '../../app/store.js';

const NONE: readonly DesignDatabase[] = [];

/** What a person agrees to: SQL, by its digests, and that a login runs it that could do more than its database holds. */
export interface Agreement {
  readonly agreed: readonly string[];
  readonly powers: boolean;
}

const NO_AGREEMENT: Agreement = { agreed: [], powers: false };

/** What the screen shows of a plan. */
export type ChangesTab = 'steps' | 'rehearsal' | 'script';

/** The databases of the open design, the one that is looked at, and the plan for it. All of it is in the address. */
export function useChanges() {
  const { tree = '' } = useParams();
  const dispatch = useAppDispatch();
  const [search, setSearch] = useSearchParams();
  const revision = useAppSelector(({ workspace }) => workspace.revision);
  const isSaved = useAppSelector(({ workspace }) => workspace.saving.kind === 'saved');
  const { data, error } = useDesignDatabasesQuery(tree, { refetchOnMountOrArgChange: true });
  const [keep, keeping] = useKeepAnswersMutation();
  const [agreement, setAgreement] = useState<Agreement>(NO_AGREEMENT);
  const databases = data?.databases ?? NONE;
  const database = databases.find(({ id }) => id === search.get('database')) ?? databases[0] ?? null;
  const goal: PlanGoal = search.get('goal') === 'before' ? 'before' : search.get('goal') === 'last' ? 'last' : 'text';
  const tab: ChangesTab = search.get('tab') === 'rehearsal' ? 'rehearsal' : search.get('tab') === 'script' ? 'script' : 'steps';
  const answers = data?.answers ?? '';
  const of = useMemo(
    () => ({ tree, database: database?.id ?? '', goal, revision, answers, ...agreement }),
    [tree, database?.id, goal, revision, answers, agreement],
  );
  // A text that is not saved yet is planned once it is: the plan is of what the server has.
  const planned = usePlanQuery(of, { skip: database === null || !isSaved, refetchOnMountOrArgChange: true });
  const set = useCallback(
    (name: string, value: string | null) =>
      setSearch(
        (before) => {
          const next = new URLSearchParams(before);
          if (value === null) next.delete(name);
          else next.set(name, value);
          return next;
        },
        { replace: name === 'tab' },
      ),
    [setSearch],
  );
  const again = useCallback(() => void dispatch(api.util.invalidateTags([{ type: 'Changes', id: tree }])), [dispatch, tree]);
  const say = useCallback((next: string) => void keep({ tree, answers: next, instead: answers }), [keep, tree, answers]);
  return {
    tree,
    databases,
    database,
    goal,
    tab,
    answers,
    planned,
    isSaved,
    loaded: data !== undefined,
    error: error ?? keeping.error,
    look: (id: string) => set('database', id),
    show: (next: ChangesTab) => set('tab', next === 'steps' ? null : next),
    aim: (next: PlanGoal) => set('goal', next === 'text' ? null : next),
    agree: setAgreement,
    say,
    again,
  };
}
