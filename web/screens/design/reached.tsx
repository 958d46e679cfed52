import { X } from 'lucide-react';
import { useCallback, useMemo } from 'react';
import { useSearchParams } from 'react-router';
import type { ImpactTold } from '../../../contract/index.js';
import { pivotLabel } from '../../../core/map/index.js';
import type { DesignView } from '../../../core/view-models/index.js';
import { failureMessage, useImpactQuery } from '../../app/api.js';
import { DELETE } from '../../app/links.js';
import { useAppSelector } from '../../app/store.js';
import { grouped } from '../../parts/grouped.js';
import type { Badge, MapNotes } from './map-notes.js';

type Group = Extract<ImpactTold, { ok: true }>['groups'][number];

/** What a delete does to rows of one label of the map. */
interface Reach {
  readonly effect: Group['effect'] | 'deleted';
  readonly rows: number;
}

/** The delete that the address names, and what it reaches; null where it names none. Nothing is touched by looking. */
export function useReached(view: DesignView | null): MapNotes | null {
  const [search, setSearch] = useSearchParams();
  const tree = useAppSelector((state) => state.workspace.tree?.id ?? '');
  const commands = search.get(DELETE);
  const { data, error } = useImpactQuery({ tree, rows: commands ?? '' }, { skip: commands === null || tree === '' });
  const leave = useCallback(
    () =>
      setSearch((before) => {
        const params = new URLSearchParams(before);
        params.delete(DELETE);
        return params;
      }),
    [setSearch],
  );
  return useMemo(() => {
    if (commands === null) return null;
    const { labels, kept } = data?.ok === true && view !== null ? placedOn(view, data) : { labels: null, kept: null };
    const problem = error !== undefined ? failureMessage(error) : data?.ok === false ? data.problems.join(' ') : '';
    const badges = labels === null ? null : new Map(Array.from(labels, ([id, reaches]) => [id, reaches.map(badgeOf)] as const));
    return {
      kept,
      badges,
      of: 'Reached of',
      bar: <ReachedBar commands={commands} labels={labels} problem={problem} onLeave={leave} />,
    };
  }, [commands, data, error, view, leave]);
}

function placedOn(view: DesignView, { rows, groups }: Extract<ImpactTold, { ok: true }>) {
  const labels = new Map<string, Reach[]>();
  const kept = new Set<string>();
  const add = (of: string, reach: Reach) => {
    const isEntity = view.entities.some(({ name }) => name === of);
    const id = isEntity ? of : pivotLabel(of);
    const others = (labels.get(id) ?? []).filter(({ effect }) => effect !== reach.effect);
    const same = (labels.get(id) ?? []).find(({ effect }) => effect === reach.effect);
    labels.set(id, [...others, { ...reach, rows: reach.rows + (same?.rows ?? 0) }]);
    kept.add(id);
    if (!isEntity) kept.add(`relation ${of}`);
  };
  for (const { entity, rows: many } of rows) add(entity, { effect: 'deleted', rows: many });
  for (const { of, over, effect, rows: many } of groups) {
    add(of, { effect, rows: many });
    const ends = view.entities.find(({ name }) => name === of)?.ends ?? [];
    for (const { name, relation } of ends) if (over.includes(name)) kept.add(`relation ${relation}`);
  }
  return { labels, kept };
}

const WORDS: Readonly<Record<Reach['effect'], string>> = {
  deleted: 'deleted',
  'goes along': 'go along',
  'is emptied': 'are emptied',
  'gets its default': 'get their default',
  refuses: 'refuse',
  'may refuse': 'may refuse',
  stays: 'are left behind',
};

/** The same of pairs, which there is less room for. */
const SHORT: Readonly<Record<Reach['effect'], string>> = {
  ...WORDS,
  'goes along': 'go',
  'may refuse': 'may',
  stays: 'stay',
};

const LOOKS: Readonly<Record<Reach['effect'], string>> = {
  deleted: 'border-ink bg-ink text-label',
  'goes along': 'border-to-many bg-label text-to-many',
  'is emptied': 'border-to-one bg-label text-to-one',
  'gets its default': 'border-to-one bg-label text-to-one',
  refuses: 'border-harm bg-label text-harm',
  'may refuse': 'border-harm bg-label text-harm',
  stays: 'border-harm bg-label text-harm',
};

function badgeOf({ effect, rows }: Reach): Badge {
  const many = grouped(rows);
  return {
    key: effect,
    label: `${many} ${WORDS[effect]}`,
    words: `${many} ${WORDS[effect]}`,
    short: `${many} ${SHORT[effect]}`,
    look: LOOKS[effect],
  };
}

/** What the map shows instead of close kin, and a way back. */
function ReachedBar({
  commands,
  labels,
  problem,
  onLeave,
}: {
  /** The commands that delete. */
  readonly commands: string;
  /** What happens to rows of each label; null while it is counted, or where it cannot be. */
  readonly labels: ReadonlyMap<string, readonly Reach[]> | null;
  readonly problem: string;
  onLeave(): void;
}) {
  const counts = labels === null ? 0 : Array.from(labels.values()).flat().length;
  return (
    <section
      aria-label="What a delete reaches"
      className="flex items-baseline gap-3 border-b border-line bg-label px-4 py-1.5 text-small"
    >
      <span className="font-serif text-ink-2 italic">What this would reach</span>
      <code className="min-w-0 truncate font-mono">{commands.replaceAll('\n', '; ')}</code>
      <span role="status" className={`ml-auto whitespace-nowrap ${problem === '' ? 'text-ink-2' : 'text-harm'}`}>
        {problem !== ''
          ? problem
          : labels === null
            ? 'counting…'
            : counts === 0
              ? 'No row is meant.'
              : 'Nothing has been touched.'}
      </span>
      <button type="button" aria-label="Back to the whole map" title="Back to the whole map" onClick={onLeave}>
        <X size={14} />
      </button>
    </section>
  );
}
