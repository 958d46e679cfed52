import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { CircleHelp, History, Redo2, Undo2 } from 'lucide-react';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { Link, NavLink, Outlet, useNavigate, useParams } from 'react-router';
import type { DatabaseState } from '../../contract/index.js';
import { grouped } from '../parts/grouped.js';
import { Mark } from '../parts/mark.js';
import { ThemeButton } from '../parts/theme-button.js';
import { AgreeButton } from './agree-sql.js';
import { failureMessage, useMakeAgainMutation, useStopMakingMutation } from './api.js';
import { Clash } from './clash.js';
import { type Command, useCommands } from './commands.js';
import { DatabaseChip } from './database-in-use.js';
import { fetched } from './fetched.js';
import { Findings } from './findings-button.js';
import { SaveNote } from './save-note.js';
import { ServerAway } from './server-away.js';
import { nameCommands, pageCommands, type Sheet, textCommands } from './shell-commands.js';
import { useAppDispatch, useAppSelector } from './store.js';
import { Tour } from './tour.js';
import { isTourable, tourWanted } from './touring.js';
import { useActorInAddress } from './use-actor-in-address.js';
import { isWriting, useSheetKeys } from './use-sheet-keys.js';
import { useOpenTree } from './use-tree.js';
import { WorkingAs } from './working-as.js';
import { redone, undone } from './workspace.js';

const Palette = fetched(async () => (await import('./palette.js')).Palette);
const Reference = fetched(async () => (await import('./reference.js')).Reference);
const DatabaseDialog = fetched(async () => (await import('./database-dialog.js')).DatabaseDialog);
const RevisionsDialog = fetched(async () => (await import('./revisions.js')).RevisionsDialog);

const SCREENS = [
  { path: 'design', name: 'Design', subtitle: 'entities and relations', words: 'model schema map text diagram erd entities' },
  {
    path: 'changes',
    name: 'Changes',
    subtitle: 'from design to database',
    words: 'migration migrate plan apply rehearse diff deploy rollback undo history drift sync schema',
  },
  { path: 'rows', name: 'Rows', subtitle: 'look at what is there', words: 'data table grid browse records seed fixtures crud' },
  { path: 'try', name: 'Try', subtitle: 'queries and loads', words: 'run select sql console eager load include preload n+1' },
  {
    path: 'reach',
    name: 'Reach',
    subtitle: 'who sees what',
    words: 'permissions policies access control authorization tenant tenancy row level security roles rights walls actor',
  },
  {
    path: 'findings',
    name: 'Findings',
    subtitle: 'what is wrong or doubtful',
    words: 'lint check errors warnings problems fix validate integrity orphans',
  },
  {
    path: 'share',
    name: 'Share',
    subtitle: 'take it with you',
    words: 'export api http rest endpoint openapi json schema typescript types markdown docs svg png dot curl client',
  },
] as const;

/** Only a database that was brought in has a page that says how. */
const ARRIVAL = {
  path: 'arrival',
  name: 'Origin',
  subtitle: 'how it came in',
  words: 'import bring in report again refresh update source database',
} as const;

const screensOf = (broughtIn: boolean) => (broughtIn ? [...SCREENS, ARRIVAL] : SCREENS);

/** The frame around an open tree: the bar of screens, the tree's title, and what state its text and database are in. */
export function TreeShell() {
  const { tree = '' } = useParams();
  const { error, loading } = useOpenTree(tree);
  useActorInAddress(tree);
  const [sheet, setSheet] = useState<Sheet | null>(null);
  const [touring, setTouring] = useState(tourWanted);
  const tourable = useAppSelector(({ workspace: { view } }) => view !== null && isTourable(view));
  const broughtIn = useAppSelector(({ workspace }) => workspace.tree?.arrived === true);
  const close = useCallback(() => setSheet(null), []);
  useSheetKeys(setSheet);
  useUndoKeys();
  useShellCommands(tree, setSheet, setTouring);
  if (error !== undefined) {
    return (
      <main className="mx-auto max-w-xl p-16">
        <h1 className="font-serif text-title font-semibold">This tree cannot be opened.</h1>
        <p className="mt-2">{failureMessage(error)}</p>
        <Link to="/" className="mt-3 inline-block text-selected underline">
          Go to the shelf
        </Link>
      </main>
    );
  }
  return (
    <div className="grid h-full min-w-[1100px] grid-cols-[104px_minmax(0,1fr)] grid-rows-[44px_minmax(0,1fr)]">
      <Link
        to="/"
        className="flex items-center justify-center border-r border-b border-line-2"
        aria-label="Shelf"
        title="Shelf: your designs"
      >
        <Mark />
      </Link>
      <TopBar tree={tree} onSheet={setSheet} />
      <nav aria-label="Screens" className="border-r border-line-2 pt-2">
        {screensOf(broughtIn).map(({ path, name, subtitle }) => (
          <NavLink
            key={path}
            to={`/tree/${tree}/${path}`}
            className={({ isActive }) =>
              `block border-l-3 px-3 py-2 ${isActive ? 'border-selected bg-sheet' : 'border-transparent hover:bg-sheet/60'}`
            }
          >
            {({ isActive }) => (
              <>
                <span className={`block font-serif font-semibold ${isActive ? 'text-selected' : ''}`}>{name}</span>
                <span className="block text-small leading-tight text-ink-2">{subtitle}</span>
              </>
            )}
          </NavLink>
        ))}
      </nav>
      <main className="flex min-h-0 min-w-0 flex-col bg-sheet">
        <ServerAway />
        {touring && !loading && tourable && (
          <Tour tree={tree} onPalette={() => setSheet('palette')} onClose={() => setTouring(false)} />
        )}
        <Clash />
        <div className="min-h-0 flex-1">{loading ? <p className="p-8 text-ink-2">Opening the tree…</p> : <Outlet />}</div>
      </main>

      {sheet === 'palette' && <Palette onClose={close} />}
      {sheet === 'reference' && <Reference onClose={close} />}
      {sheet === 'database' && <DatabaseDialog onClose={close} />}
      {sheet === 'revisions' && <RevisionsDialog tree={tree} onClose={close} />}
    </div>
  );
}

/** Undo and redo of the text on every screen; where something is written, its own editor does it. */
function useUndoKeys(): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z' || isWriting(event)) return;
      event.preventDefault();
      dispatch(event.shiftKey ? redone() : undone());
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [dispatch]);
}

/** Offers the commands of every screen: all names, all screens, and what concerns the whole page. */
function useShellCommands(tree: string, onSheet: (sheet: Sheet) => void, onTour: (touring: boolean) => void): void {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const view = useAppSelector((state) => state.workspace.view);
  const broughtIn = useAppSelector((state) => state.workspace.tree?.arrived === true);
  const commands = useMemo((): Command[] => {
    const go = (path: string) => void navigate(`/tree/${tree}/${path}`);
    return [
      ...screensOf(broughtIn).map(({ path, name, subtitle, words }) => ({
        id: `screen ${path}`,
        title: `${name}: ${subtitle}`,
        group: 'Screen' as const,
        words,
        run: () => go(path),
      })),
      {
        id: 'shelf',
        title: 'Shelf: your designs',
        group: 'Screen',
        words: 'home open import upload database file new',
        run: () => void navigate('/'),
      },
      ...textCommands(dispatch, go, onSheet),
      ...pageCommands(onSheet, onTour),
      ...(view === null ? [] : nameCommands(view, go)),
    ];
  }, [tree, view, broughtIn, navigate, dispatch, onSheet, onTour]);
  useCommands('shell', commands);
}

const ICON = 'rounded-sm p-1.5 text-ink-2 hover:bg-sheet hover:text-ink disabled:opacity-35';

function TopBar({ tree, onSheet }: { readonly tree: string; onSheet(sheet: Sheet): void }) {
  const dispatch = useAppDispatch();
  const view = useAppSelector((state) => state.workspace.view);
  const { past, future } = useAppSelector((state) => state.workspace.history);
  return (
    <header className="flex items-center gap-3 border-b border-line-2 px-4">
      <h1 className="max-w-[34ch] truncate font-serif text-title font-semibold" title={view?.title}>
        {view?.title ?? ''}
      </h1>
      <DatabaseChip onChoose={() => onSheet('database')} />
      <DatabaseNote />
      <span className="ml-auto" />
      <WorkingAs key={tree} tree={tree} />
      <SaveNote />
      <Findings />
      <span className="flex items-center">
        <button
          type="button"
          className={ICON}
          disabled={past.length === 0}
          aria-label="Undo"
          title={`Undo${past.at(-1)?.what ? `: ${past.at(-1)?.what}` : ''} (Ctrl Z)`}
          onClick={() => dispatch(undone())}
        >
          <Undo2 size={16} />
        </button>
        <button
          type="button"
          className={ICON}
          disabled={future.length === 0}
          aria-label="Redo"
          title="Redo (Ctrl Shift Z)"
          onClick={() => dispatch(redone())}
        >
          <Redo2 size={16} />
        </button>
        <button
          type="button"
          className={ICON}
          aria-label="Revisions"
          title="Revisions: what changed, and a way back"
          onClick={() => onSheet('revisions')}
        >
          <History size={16} />
        </button>
        <button
          type="button"
          className={ICON}
          aria-label="Reference"
          title="The notation, and the keys (?)"
          onClick={() => onSheet('reference')}
        >
          <CircleHelp size={16} />
        </button>
        <ThemeButton />
      </span>
      <button
        type="button"
        aria-label="What to do"
        title="Everything that can be done"
        className="rounded-sm border border-line-2 px-1.5 py-0.5 font-mono text-small whitespace-nowrap text-ink-2 hover:border-ink-3 hover:text-ink"
        onClick={() => onSheet('palette')}
      >
        Ctrl K
      </button>
    </header>
  );
}

const ASIDE = 'ml-2 whitespace-nowrap text-ink underline underline-offset-2';

function madeSoFar(progress: Extract<DatabaseState, { status: 'making' }>['progress']): string {
  if (progress === undefined) return 'renewing its rows…';
  const rows = grouped(progress.rows);
  switch (progress.what) {
    case 'thinking out':
      return `making its rows: ${rows} so far…`;
    case 'writing':
      return `writing its ${rows} rows…`;
    case 'looking over':
      return `looking over its ${rows} rows…`;
  }
}

/** How the database stands to the text. */
function DatabaseNote() {
  const { tree = '' } = useParams();
  const database = useAppSelector((state) => state.workspace.database);
  const [stopMaking] = useStopMakingMutation();
  const [makeAgain] = useMakeAgainMutation();
  if (database === null) return null;
  switch (database.status) {
    case 'making':
      return (
        <span className="text-small whitespace-nowrap text-ink-2">
          <span role="status">{madeSoFar(database.progress)}</span>
          {database.progress !== undefined && (
            <button type="button" className={ASIDE} aria-label="Stop making rows" onClick={() => void stopMaking(tree)}>
              Stop
            </button>
          )}
        </span>
      );
    case 'asks':
      return <AgreeButton asks={database} />;
    case 'failed':
      return (
        <span className="flex min-w-0 items-baseline text-small text-harm">
          <span role="status" className="truncate" title={database.message}>
            ✕ {database.message}
          </span>
          {database.stopped === true && (
            <button type="button" className={ASIDE} onClick={() => void makeAgain(tree)}>
              Make them
            </button>
          )}
        </span>
      );
    case 'ready': {
      const rows = Object.values(database.rows).reduce((sum, count) => sum + count, 0);
      const missing = database.absent.length;
      return (
        <span role="status" className="text-small whitespace-nowrap text-ink-2">
          {database.kind === 'made' ? (
            `✓ ${grouped(rows)} rows`
          ) : missing === 0 ? (
            '✓ all of the text is in it'
          ) : (
            <span className="text-to-many">▲ {missing} of the text not in this database</span>
          )}
          {database.unsatisfied.length > 0 && <Shortfalls unsatisfied={database.unsatisfied} />}
          {database.unheld.length > 0 && (
            <Link
              to={`/tree/${tree}/findings`}
              className="ml-2 text-to-many underline underline-offset-2"
              title={database.unheld.join('\n')}
            >
              ▲ {database.unheld.length === 1 ? '1 rule' : `${database.unheld.length} rules`} broken in the rows
            </Link>
          )}
        </span>
      );
    }
  }
}

/** What of the samples could not be made, behind a button that counts it. */
function Shortfalls({ unsatisfied }: { readonly unsatisfied: readonly { owner: string; constraint: string; rows: number }[] }) {
  const lines = unsatisfied.map(({ owner, constraint, rows }) => `${owner}: ${rows} rows not made, ${constraint}`);
  return (
    <Popover className="relative ml-2 inline-block">
      <PopoverButton className="text-to-many underline underline-offset-2">
        ▲ {lines.length} could not be made as asked
      </PopoverButton>
      <PopoverPanel className="absolute top-6 left-0 z-20 w-96 border border-line-2 bg-label p-3 text-ink">
        <ul className="list-disc pl-4 whitespace-normal">
          {lines.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      </PopoverPanel>
    </Popover>
  );
}
