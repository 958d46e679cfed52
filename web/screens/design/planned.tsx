import { X } from 'lucide-react';
import { useCallback, useMemo } from 'react';
import { Link, useSearchParams } from 'react-router';
import { pivotLabel } from '../../../core/map/index.js';
import type { DesignView } from '../../../core/view-models/index.js';
import { failureMessage, useDesignDatabasesQuery, usePlanQuery } from '../../app/api.js';
import { changesLink, PLANNED } from '../../app/links.js';
import { useAppSelector } from '../../app/store.js';
import type { Badge, MapNotes } from './map-notes.js';

const LOOKS: Readonly<Record<'new' | 'changed', Badge>> = {
  new: { key: 'new', label: 'new in the database', words: '+ new', short: '+ new', look: 'border-fine bg-label text-fine' },
  changed: { key: 'changed', label: 'changes', words: '~ changes', short: '~', look: 'border-to-many bg-label text-to-many' },
};

/** What would become otherwise in the database that the address names, as the map shows it; null where it names none. */
export function usePlanned(view: DesignView | null): MapNotes | null {
  const [search, setSearch] = useSearchParams();
  const tree = useAppSelector(({ workspace }) => workspace.tree?.id ?? '');
  const revision = useAppSelector(({ workspace }) => workspace.revision);
  const isSaved = useAppSelector(({ workspace }) => workspace.saving.kind === 'saved');
  const database = search.get(PLANNED);
  const { data: known } = useDesignDatabasesQuery(tree, { skip: database === null || tree === '' });
  const { data, error } = usePlanQuery(
    { tree, database: database ?? '', goal: 'text', revision, answers: known?.answers ?? '', agreed: [], powers: false },
    { skip: database === null || known === undefined || !isSaved },
  );
  const leave = useCallback(
    () =>
      setSearch((before) => {
        const params = new URLSearchParams(before);
        params.delete(PLANNED);
        return params;
      }),
    [setSearch],
  );
  return useMemo(() => {
    if (database === null) return null;
    const problem = error !== undefined ? failureMessage(error) : data?.ok === false ? data.problem : '';
    const badges = new Map<string, readonly Badge[]>();
    if (data?.ok === true)
      for (const [name, how] of Object.entries(data.entities)) {
        const isEntity = view?.entities.some((entity) => entity.name === name) === true;
        badges.set(isEntity ? name : pivotLabel(name), [LOOKS[how]]);
      }
    const gone = data?.ok === true ? data.changes.filter(({ kind, subject }) => kind === 'gone' && subject === 'table') : [];
    const label = known?.databases.find(({ id }) => id === database)?.label ?? 'the database';
    const said =
      problem !== ''
        ? problem
        : data === undefined
          ? 'looking at its rows…'
          : badges.size + gone.length === 0
            ? 'Nothing would change.'
            : gone.length === 0
              ? ''
              : `✕ goes: ${gone.map(({ table }) => table).join(', ')}`;
    return {
      kept: badges.size === 0 ? null : new Set(badges.keys()),
      badges,
      of: 'In the database,',
      bar: (
        <section
          aria-label="What would change"
          className="flex items-baseline gap-3 border-b border-line bg-label px-4 py-1.5 text-small"
        >
          <span className="font-serif whitespace-nowrap text-ink-2 italic">What would change in {label}</span>
          <span
            role="status"
            className={`min-w-0 truncate ${problem !== '' || gone.length > 0 ? 'text-harm' : 'text-ink-2'}`}
            title={said}
          >
            {said}
          </span>
          <Link to={changesLink(tree, database)} className="ml-auto whitespace-nowrap text-selected underline underline-offset-2">
            Back to Changes
          </Link>
          <button type="button" aria-label="Back to the whole map" title="Back to the whole map" onClick={leave}>
            <X size={14} />
          </button>
        </section>
      ),
    };
  }, [database, data, error, view, known, leave, tree]);
}
