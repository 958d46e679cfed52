import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { Link, NavLink, Outlet, useParams } from 'react-router';
import { Mark } from '../parts/mark.js';
import { ThemeButton } from '../parts/theme-button.js';
import { failureMessage } from './api.js';
import { useAppSelector } from './store.js';
import { useOpenTree } from './use-tree.js';

const SCREENS = [
  { path: 'design', name: 'Design', subtitle: 'entities and relations' },
  { path: 'try', name: 'Try', subtitle: 'queries and loads' },
] as const;

/** The frame around an open tree: the bar of screens, the tree's title, and what state its database is in. */
export function TreeShell() {
  const { tree = '' } = useParams();
  const { error, loading } = useOpenTree(tree);
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
    <div className="grid h-full min-w-[1100px] grid-cols-[104px_1fr] grid-rows-[44px_1fr]">
      <Link
        to="/"
        className="flex items-center justify-center border-r border-b border-line-2"
        aria-label="Shelf"
        title="Shelf: your designs"
      >
        <Mark />
      </Link>
      <TopBar />
      <nav aria-label="Screens" className="border-r border-line-2 pt-2">
        {SCREENS.map(({ path, name, subtitle }) => (
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
      <main className="min-h-0 min-w-0 bg-sheet">
        {loading ? <p className="p-8 text-ink-2">Opening the tree…</p> : <Outlet />}
      </main>
    </div>
  );
}

function TopBar() {
  const view = useAppSelector((state) => state.workspace.view);
  const kind = useAppSelector((state) => state.workspace.tree?.kind ?? 'made');
  const findings = view?.findings ?? [];
  const errors = findings.filter((finding) => finding.weight === 'error').length;
  return (
    <header className="flex items-center gap-4 border-b border-line-2 px-4">
      <h1 className="truncate font-serif text-title font-semibold">{view?.title ?? ''}</h1>
      <span className="rounded-sm border border-line-2 px-2 py-0.5 text-small text-ink-2">
        {kind === 'made' ? 'scratch database, made from the text' : 'your SQLite file, only looked at'}
      </span>
      <DatabaseNote />
      <span className="ml-auto text-small text-ink-2">
        {findings.length === 0
          ? 'no findings'
          : `${findings.length} finding${findings.length === 1 ? '' : 's'}${errors === 0 ? '' : `, ${errors} of them error${errors === 1 ? '' : 's'}`}`}
      </span>
      <ThemeButton />
    </header>
  );
}

/** How the database stands to the text. */
function DatabaseNote() {
  const database = useAppSelector((state) => state.workspace.database);
  if (database === null) return null;
  switch (database.status) {
    case 'making':
      return (
        <span role="status" className="text-small text-ink-2">
          renewing its rows…
        </span>
      );
    case 'failed':
      return (
        <span role="status" className="truncate text-small text-harm" title={database.message}>
          ✕ {database.message}
        </span>
      );
    case 'ready': {
      const rows = Object.values(database.rows).reduce((sum, count) => sum + count, 0);
      const missing = database.absent.length;
      const short = database.unsatisfied.length + database.brokenRules.length;
      return (
        <span role="status" className="text-small text-ink-2">
          {database.kind === 'made' ? (
            `✓ ${rows.toLocaleString('en')} rows`
          ) : missing === 0 ? (
            '✓ all of the text is in it'
          ) : (
            <span className="text-to-many">▲ {missing} of the text not in this database</span>
          )}
          {short > 0 && <Shortfalls lines={shortfalls(database)} />}
        </span>
      );
    }
  }
}

/** What of the samples could not be made, behind a button that counts it. */
function Shortfalls({ lines }: { readonly lines: readonly string[] }) {
  return (
    <Popover className="relative ml-2 inline-block">
      <PopoverButton className="text-to-many underline underline-offset-2">
        ▲ {lines.length} could not be made as asked
      </PopoverButton>
      <PopoverPanel className="absolute top-6 left-0 z-20 w-96 border border-line-2 bg-label p-3 text-ink">
        <ul className="list-disc pl-4">
          {lines.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      </PopoverPanel>
    </Popover>
  );
}

function shortfalls(database: {
  unsatisfied: { owner: string; constraint: string; rows: number }[];
  brokenRules: { entity: string; rule: string; rows: number }[];
}): string[] {
  return [
    ...database.unsatisfied.map(({ owner, constraint, rows }) => `${owner}: ${rows} rows not made, ${constraint}`),
    ...database.brokenRules.map(({ entity, rule, rows }) => `${entity}: ${rows} rows break rule ${rule}`),
  ];
}
