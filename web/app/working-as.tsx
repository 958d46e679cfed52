import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { UserRound } from 'lucide-react';
import { useState } from 'react';
import * as v from 'valibot';
import { rowText } from '../../core/edits/index.js';
import type { DesignView } from '../../core/view-models/index.js';
import { workedAs } from './actor.js';
import { useRowsSoughtQuery } from './api.js';
import { preferences } from './preferences.js';
import { type PickedRow, RowPicker } from './row-picker.js';
import { useAppDispatch, useAppSelector } from './store.js';

/** Somebody who was at work lately, as a text names them and as they are shown. */
const Recent = v.object({ as: v.string(), shown: v.string() });
type Recent = v.InferOutput<typeof Recent>;

const MOST_RECENT = 6;

/**
 * On whose behalf rows are read and written, in the top bar of every screen: the system sees all rows, anybody else what the walls
 * let through. Nothing is shown where the text names nobody who could be at work.
 */
export function WorkingAs({ tree }: { readonly tree: string }) {
  const dispatch = useAppDispatch();
  const as = useAppSelector((state) => state.actor.as);
  const view = useAppSelector((state) => state.workspace.view);
  const [recent, setRecent] = useState(() => recentIn(tree));
  const entity = view?.actor ?? null;
  const known = recent.find((one) => one.as === as);
  // Whoever came by an address, or was found by Reach, is shown as any row is.
  const key = /\((.*)\)$/s.exec(as)?.[1] ?? '';
  const sought = { tree, entities: entity === null ? [] : [entity], sought: key.replace(/^'|'$/g, ''), bySystem: true };
  const { data } = useRowsSoughtQuery(sought, { skip: view === null || entity === null || known !== undefined || key === '' });
  const found = view === null || entity === null ? undefined : data?.rows.find((row) => textOf(view, entity, row) === as);
  if (view === null || (entity === null && as === '')) return null;
  const shown = as === '' ? 'system' : (known?.shown ?? found?.shown ?? as);
  const choose = (next: string) => dispatch(workedAs(next));
  const pick = (row: PickedRow | null) => {
    const named = row === null || entity === null ? null : textOf(view, entity, row);
    if (row === null || named === null) return;
    const kept = [{ as: named, shown: row.shown }, ...recent.filter((one) => one.as !== named)].slice(0, MOST_RECENT);
    setRecent(kept);
    preferences.setItem(nameFor(tree), JSON.stringify(kept));
    choose(named);
  };
  return (
    <Popover className="relative">
      <PopoverButton
        aria-label={`Working as ${shown}`}
        title={as === '' ? 'Working as the system, which sees all rows' : `Working as ${as}: rows behind walls are hidden`}
        className={`flex max-w-[26ch] items-center gap-1.5 rounded-sm border px-2 py-0.5 text-small whitespace-nowrap ${as === '' ? 'border-line-2 text-ink-2 hover:border-ink-3 hover:text-ink' : 'border-polymorphic bg-label text-polymorphic'}`}
      >
        <UserRound size={14} aria-hidden className="shrink-0" />
        <span>as</span>
        <span className="truncate font-semibold">{shown}</span>
      </PopoverButton>
      <PopoverPanel className="absolute top-8 right-0 z-40 w-80 border border-line-2 bg-label p-3 text-ink shadow-slip">
        {({ close }) => (
          <>
            <p className="mb-2 font-serif text-ink-2 italic">Working as</p>
            <ul aria-label="Who can be at work" className="mb-3 space-y-0.5">
              {choicesFor(recent).map((one) => (
                <li key={one.as}>
                  <button
                    type="button"
                    aria-pressed={one.as === as}
                    className={`flex w-full items-baseline gap-2 px-2 py-0.5 text-left hover:bg-wash ${one.as === as ? 'bg-wash font-semibold' : ''}`}
                    onClick={() => {
                      choose(one.as);
                      close();
                    }}
                  >
                    {one.shown}
                    <span className="ml-auto font-normal text-small text-ink-3">{one.told}</span>
                  </button>
                </li>
              ))}
            </ul>
            {entity === null ? (
              <p className="text-small text-ink-2">
                The text names nobody who could be at work: write “actor Player” into its head.
              </p>
            ) : (
              <RowPicker
                tree={tree}
                label={`The ${entity} at work`}
                entities={[entity]}
                value={null}
                bySystem
                className="w-full"
                onPick={(row) => {
                  pick(row);
                  close();
                }}
              />
            )}
          </>
        )}
      </PopoverPanel>
    </Popover>
  );
}

function choicesFor(recent: readonly Recent[]): readonly (Recent & { readonly told: string })[] {
  return [
    { as: '', shown: 'system', told: 'sees all rows' },
    { as: 'nobody', shown: 'nobody', told: 'has not said who' },
    ...recent.map((one) => ({ ...one, told: one.as })),
  ];
}

function textOf({ entities }: DesignView, entity: string, { key }: PickedRow): string | null {
  const keyType = entities.find(({ name }) => name === entity)?.keyType;
  return keyType === undefined ? null : rowText({ entity, keyType, key });
}

function nameFor(tree: string): string {
  return `at work in ${tree}`;
}

function recentIn(tree: string): readonly Recent[] {
  try {
    const kept = v.safeParse(v.array(Recent), JSON.parse(preferences.getItem(nameFor(tree)) ?? '[]'));
    return kept.success ? kept.output : [];
  } catch {
    return [];
  }
}
