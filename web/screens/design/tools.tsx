import { List } from 'lucide-react';
import { type RefObject, useEffect, useRef } from 'react';
import type { MapOptions } from '../../../core/map/index.js';
import { runCommand } from '../../app/commands.js';
import type { Selection } from '../../app/selection.js';
import { Input } from '../../parts/input.js';
import { Choice } from '../../parts/menu.js';

const LINES: readonly MapOptions['lines'][] = ['names', 'keys', 'all'];
const WORDS = { names: 'Names', keys: 'Keys', all: 'All fields' } as const;
const TOOL =
  'rounded-sm border border-line-2 bg-label px-2.5 py-0.5 hover:border-ink-3 disabled:text-ink-3 disabled:hover:border-line-2';

/** What is done with the map: relate, add, find, how much is shown. */
export function MapTools({
  wish,
  hits,
  onWish,
  lines,
  onLines,
  listed,
  onListed,
  selected,
  kinShown,
  onKin,
  onSelect,
  onRelate,
  onAddEntity,
}: {
  readonly wish: string;
  readonly hits: readonly string[];
  onWish(wish: string): void;
  readonly lines: MapOptions['lines'];
  onLines(lines: MapOptions['lines']): void;
  readonly listed: boolean;
  onListed(listed: boolean): void;
  readonly selected: string | null;
  /** Is the sheet that of close kin? */
  readonly kinShown: boolean;
  onKin(shown: boolean): void;
  onSelect(selection: Selection | null): void;
  onRelate(): void;
  onAddEntity(): void;
}) {
  const search = useRef<HTMLInputElement>(null);
  useMapKeys(search, () => {
    if (selected !== null) onKin(!kinShown);
  });
  return (
    <div role="toolbar" aria-label="Map" className="flex items-center gap-2 border-b border-line px-3 py-1.5">
      <button type="button" className={TOOL} onClick={onRelate}>
        Relate
      </button>
      <button type="button" className={TOOL} onClick={onAddEntity}>
        Add entity
      </button>
      <Finder box={search} wish={wish} hits={hits} selected={selected} onWish={onWish} onSelect={onSelect} />
      <Choice label="Shown on the map" value={lines} options={LINES} onChange={onLines} shown={(option) => WORDS[option]} />
      <button
        type="button"
        className={`${TOOL} ${listed ? 'bg-wash' : ''}`}
        aria-pressed={listed}
        title="A list beside the map"
        onClick={() => onListed(!listed)}
      >
        <List size={15} className="my-[3px]" aria-hidden="true" />
        <span className="sr-only">List of entities</span>
      </button>
      <button
        type="button"
        className={`${TOOL} ${kinShown ? 'bg-wash' : ''}`}
        aria-pressed={kinShown}
        disabled={selected === null}
        title={selected === null ? 'Select an entity to see its close kin alone' : 'Only what is selected and its close kin (K)'}
        onClick={() => onKin(!kinShown)}
      >
        Kin
      </button>
      <button type="button" className={TOOL} onClick={() => runCommand('fit')}>
        Fit
      </button>
    </div>
  );
}

/** Finds labels by what they are called; Enter goes through those that are found. */
function Finder({
  box,
  wish,
  hits,
  selected,
  onWish,
  onSelect,
}: {
  readonly box: RefObject<HTMLInputElement | null>;
  readonly wish: string;
  readonly hits: readonly string[];
  readonly selected: string | null;
  onWish(wish: string): void;
  onSelect(selection: Selection | null): void;
}) {
  return (
    <>
      <span className="relative ml-auto">
        <Input
          ref={box}
          type="search"
          value={wish}
          placeholder="Find an entity"
          aria-label="Find an entity on the map"
          className="w-44 pr-7 pl-2"
          onChange={(event) => onWish(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Escape') onWish('');
            if (event.key !== 'Enter') return;
            const at = selected === null ? -1 : hits.indexOf(selected);
            const name = hits[(at + 1) % Math.max(1, hits.length)];
            if (name !== undefined) onSelect({ kind: 'entity', name });
          }}
        />
        {wish === '' && (
          <kbd className="pointer-events-none absolute top-1/2 right-1.5 -translate-y-1/2 border border-line-2 px-1 font-mono text-small leading-4 text-ink-3">
            /
          </kbd>
        )}
      </span>
      {wish !== '' && (
        <span role="status" className="text-small whitespace-nowrap text-ink-2">
          {hits.length === 0 ? 'none' : `${hits.length} found`}
        </span>
      )}
    </>
  );
}

/** `/` goes to where one finds, and `K` is for kin; where somebody writes they are letters. */
function useMapKeys(search: RefObject<HTMLInputElement | null>, toggleKin: () => void): void {
  const kin = useRef(toggleKin);
  kin.current = toggleKin;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      const isPlain = !event.ctrlKey && !event.metaKey && !event.altKey;
      if (!isPlain || target.closest('input, textarea, select, [contenteditable], [role="dialog"]') !== null) return;
      if (event.key === '/') {
        event.preventDefault();
        search.current?.focus();
      } else if (event.key === 'k') kin.current();
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [search]);
}
