import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import type { CloseKin, MapOptions } from '../../../core/map/index.js';
import type { DesignView, MapView } from '../../../core/view-models/index.js';
import { latestOnly, toldAhead } from '../../app/design-client.js';
import { preferences } from '../../app/preferences.js';
import type { Selection } from '../../app/selection.js';
import { useAppSelector } from '../../app/store.js';
import { sentencesOf } from './kin.js';

const LINES: readonly MapOptions['lines'][] = ['names', 'keys', 'all'];
/** Above so many entities a selection is seen with its close kin alone, unless the whole map is asked for. */
const LARGE_MAP = 40;

/** What of the map is shown, and how it is changed. */
export interface MapState {
  readonly map: MapView | null;
  readonly options: MapOptions;
  /** The close kin that are shown in place of the whole map; null for the whole. */
  readonly kin: CloseKin | null;
  setLines(lines: MapOptions['lines']): void;
  fold(entity: string): void;
  /** Shows the kin of one more entity; of one that is open already, all of them. */
  open(entities: readonly string[]): void;
  /** Close kin in place of the whole map, or back. */
  showKin(shown: boolean): void;
}

/** The map of the text as it stands, laid out in the worker; what is folded and opened is in the address. */
export function useMap(selection: Selection | null): MapState {
  const view = useAppSelector((state) => state.workspace.view);
  const [search, setSearch] = useSearchParams();
  const [lines, keepLines] = useState(LINES.find((known) => known === preferences.getItem('map lines')) ?? 'keys');
  const folded = useNames(search.get('fold'));
  const opened = useNames(search.get('open'));
  const whole = useNames(search.get('all'));
  const sheet = search.get('sheet');
  const options = useMemo(() => ({ lines, folded }), [lines, folded]);
  const shown = useRef<MapView | null>(null);
  const isLarge = view !== null && view.entities.length > LARGE_MAP;
  const centres = useCentres(view, selection, shown);
  const kin = useMemo(
    () => (centres.length > 0 && (sheet === 'kin' || (isLarge && sheet !== 'whole')) ? { centres, opened, whole } : null),
    [centres, sheet, isLarge, opened, whole],
  );
  const [map, setMap] = useState<MapView | null>(() =>
    view === null ? null : (toldAhead('map', { text: view.text, options, kin }) ?? null),
  );
  const ask = useRef<ReturnType<typeof latestOnly<'map'>> | null>(null);
  ask.current ??= latestOnly('map', (answer) => {
    shown.current = answer;
    setMap(answer);
  });
  useEffect(() => {
    if (view !== null) ask.current?.({ text: view.text, options, kin });
  }, [view, options, kin]);
  const change = useCallback(
    (edit: (params: URLSearchParams) => void) =>
      setSearch(
        (before) => {
          const params = new URLSearchParams(before);
          edit(params);
          return params;
        },
        { replace: true },
      ),
    [setSearch],
  );
  const fold = useCallback(
    (entity: string) =>
      change((params) => {
        const now = namesIn(params.get('fold'));
        write(params, 'fold', now.includes(entity) ? now.filter((name) => name !== entity) : [...now, entity]);
      }),
    [change],
  );
  // What is looked for and stands below a fold is unfolded.
  const selected = selection?.kind === 'entity' ? selection.name : null;
  useEffect(() => {
    if (map === null || selected === null) return;
    const hiding = Array.from(map.folds).flatMap(([name, hidden]) => (hidden.has(selected) ? [name] : []));
    if (hiding.length === 0) return;
    change((params) =>
      write(
        params,
        'fold',
        namesIn(params.get('fold')).filter((name) => !hiding.includes(name)),
      ),
    );
  }, [map, selected, change]);
  const open = useCallback(
    (entities: readonly string[]) =>
      change((params) => {
        const now = namesIn(params.get('open'));
        const again = entities.filter((name) => now.includes(name) || centres.includes(name));
        write(params, 'open', [...new Set([...now, ...entities])]);
        if (again.length > 0) write(params, 'all', [...new Set([...namesIn(params.get('all')), ...again])]);
      }),
    [change, centres],
  );
  const showKin = useCallback(
    (wanted: boolean) =>
      change((params) => {
        // A large map shows close kin of itself, a small one the whole.
        if (wanted === isLarge) params.delete('sheet');
        else params.set('sheet', wanted ? 'kin' : 'whole');
      }),
    [change, isLarge],
  );
  const setLines = useCallback((chosen: MapOptions['lines']) => {
    preferences.setItem('map lines', chosen);
    keepLines(chosen);
  }, []);
  return { map, options, kin, setLines, fold, open, showKin };
}

/** The entities in the middle. A relation that is drawn already is only marked, so that the picture stays. */
function useCentres(
  view: DesignView | null,
  selection: Selection | null,
  shown: { readonly current: MapView | null },
): readonly string[] {
  const before = useRef<readonly string[]>([]);
  const wanted = useMemo(() => {
    if (view === null || selection === null) return [];
    if (selection.kind === 'entity') return view.entities.some(({ name }) => name === selection.name) ? [selection.name] : [];
    const isDrawn = shown.current?.kin != null && shown.current.layout.stems.some(({ relation }) => relation === selection.name);
    if (isDrawn && before.current.length > 0) return before.current;
    const sentences = sentencesOf(view).get(selection.name) ?? [];
    const [child, ...others] = sentences.flatMap(({ subject, targets }) => [subject, ...targets]);
    return child === undefined ? [] : [...new Set([child, ...others])];
  }, [view, selection, shown]);
  // The same entities are the same middle, though the text was read anew.
  if (wanted.join() !== before.current.join()) before.current = wanted;
  return before.current;
}

function useNames(written: string | null): readonly string[] {
  return useMemo(() => namesIn(written), [written]);
}

function namesIn(written: string | null): readonly string[] {
  return (written ?? '').split(',').filter((name) => name !== '');
}

function write(params: URLSearchParams, name: string, names: readonly string[]): void {
  if (names.length === 0) params.delete(name);
  else params.set(name, names.join(','));
}
