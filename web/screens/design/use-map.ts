import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import type { MapOptions } from '../../../core/map/index.js';
import { latestOnly } from '../../app/design-client.js';
import { preferences } from '../../app/preferences.js';
import { useAppSelector } from '../../app/store.js';
import type { MapView } from '../../workers/asks.js';

const LINES: readonly MapOptions['lines'][] = ['names', 'keys', 'all'];

/** The map of the text as it stands, laid out in the worker; what is folded is in the address. */
export function useMap(): {
  map: MapView | null;
  options: MapOptions;
  setLines(lines: MapOptions['lines']): void;
  fold(entity: string): void;
} {
  const view = useAppSelector((state) => state.workspace.view);
  const [search, setSearch] = useSearchParams();
  const [lines, keepLines] = useState(LINES.find((known) => known === preferences.getItem('map lines')) ?? 'keys');
  const [map, setMap] = useState<MapView | null>(null);
  const written = search.get('fold') ?? '';
  const folded = useMemo(() => written.split(',').filter((name) => name !== ''), [written]);
  const options = useMemo(() => ({ lines, folded }), [lines, folded]);
  const ask = useRef<ReturnType<typeof latestOnly<'map'>> | null>(null);
  ask.current ??= latestOnly('map', setMap);
  useEffect(() => {
    if (view !== null) ask.current?.({ text: view.text, options });
  }, [view, options]);
  const fold = useCallback(
    (entity: string) =>
      setSearch(
        (before) => {
          const params = new URLSearchParams(before);
          const now = (params.get('fold') ?? '').split(',').filter((name) => name !== '');
          const next = now.includes(entity) ? now.filter((name) => name !== entity) : [...now, entity];
          if (next.length === 0) params.delete('fold');
          else params.set('fold', next.join(','));
          return params;
        },
        { replace: true },
      ),
    [setSearch],
  );
  const setLines = useCallback((chosen: MapOptions['lines']) => {
    preferences.setItem('map lines', chosen);
    keepLines(chosen);
  }, []);
  return { map, options, setLines, fold };
}
