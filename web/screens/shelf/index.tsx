import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { parse } from '../../../core/notation/index.js';
import { failureMessage, useAddTreeMutation, useOpenFileMutation, useTreesQuery } from '../../app/api.js';
import { type Command, useCommands } from '../../app/commands.js';
import { fetched } from '../../app/fetched.js';
import { chooseTheme, currentTheme } from '../../app/theme.js';
import { useSheetKeys } from '../../app/use-sheet-keys.js';
import { Button } from '../../parts/button.js';
import { ChooseFile } from '../../parts/choose-file.js';
import { Mark } from '../../parts/mark.js';
import { Sql } from '../../parts/sql.js';
import { ThemeButton } from '../../parts/theme-button.js';
import { textIn } from './text-in.js';
import { TakenOff, Trees } from './trees.js';

const Palette = fetched(async () => (await import('../../app/palette.js')).Palette);
const Reference = fetched(async () => (await import('../../app/reference.js')).Reference);

const ACTS = [
  { label: 'demo', title: 'Open the demo', words: 'example sample library' },
  { label: 'empty', title: 'Start an empty tree', words: 'new create design' },
  { label: 'bring in', title: 'Bring in a database', words: 'import upload sqlite sql script existing' },
] as const;

/** The shelf: the trees there are, and the ways to get another. */
export function ShelfScreen() {
  const { data, error, isLoading, refetch } = useTreesQuery(undefined, { refetchOnMountOrArgChange: true });
  const navigate = useNavigate();
  const [sheet, setSheet] = useState<'palette' | 'reference' | null>(null);
  const commands = useMemo(
    (): Command[] => [
      ...(data?.trees ?? []).map(({ id, title, file }) => ({
        id: `tree ${id}`,
        title,
        group: 'Page' as const,
        words: `open design tree ${file ?? ''}`,
        run: () => void navigate(`/tree/${id}/design`),
      })),
      {
        id: 'reference',
        title: 'The notation, and the keys',
        group: 'Page',
        words: 'help reference syntax shortcuts documentation',
        keys: '?',
        run: () => setSheet('reference'),
      },
      {
        id: 'theme',
        title: 'Turn the page light or dark',
        group: 'Page',
        words: 'theme mode night colors',
        run: () => chooseTheme(currentTheme() === 'light' ? 'dark' : 'light'),
      },
      ...ACTS.map(({ title, words, label }) => ({
        id: label,
        title,
        group: 'Page' as const,
        words,
        // The button does it, with all that it says meanwhile.
        run: () => document.querySelector<HTMLElement>(`[data-act="${label}"]`)?.click(),
      })),
    ],
    [data, navigate],
  );
  useCommands('shelf', commands);
  useSheetKeys(setSheet);
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-11 items-center gap-3 border-b border-line-2 px-5">
        <Mark />
        <h1 className="font-serif text-title font-semibold">Family Tree</h1>
        <span className="font-serif text-ink-2 italic">how your entities relate, over real rows</span>
        <span className="ml-auto">
          <ThemeButton />
        </span>
      </header>
      <main className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_400px]">
        <section aria-labelledby="shelf-title" className="overflow-auto bg-sheet p-8">
          <h2 id="shelf-title" className="font-serif text-title font-semibold">
            Your designs
          </h2>
          {isLoading && <p className="mt-4 text-ink-2">Looking on the shelf…</p>}
          {error !== undefined && (
            <p role="alert" className="mt-4 text-harm">
              {failureMessage(error)}{' '}
              <button type="button" className="underline" onClick={() => void refetch()}>
                Try again
              </button>
            </p>
          )}
          {data !== undefined && (
            <>
              {data.trees.length === 0 ? <Welcome /> : <Trees trees={data.trees} />}
              <TakenOff trees={data.takenOff} />
            </>
          )}
        </section>
        <aside aria-label="Start something" className="overflow-auto border-l border-line-2 p-8">
          <Start demoThere={(data?.trees.length ?? 0) > 0} folder={data?.folder ?? null} />
        </aside>
      </main>

      {sheet === 'palette' && <Palette onClose={() => setSheet(null)} />}
      {sheet === 'reference' && <Reference onClose={() => setSheet(null)} />}
    </div>
  );
}

function Welcome() {
  return (
    <div className="mt-4 max-w-[84ch]">
      <p>
        The shelf is empty. A tree is one text that says how an application’s entities relate; the tables, the SQL and the rows
        are made from it while you type.
      </p>
      <Specimen />
      <p className="mt-5 text-ink-2">
        The demo is a small library that lends instruments. Open it and change a line, or bring in a database of your own.
      </p>
    </div>
  );
}

const SENTENCES = `relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans
  on delete cascade`;

const BECOMES = `create table loans (
  id INTEGER primary key,
  borrower_id INTEGER not null,
  foreign key (borrower_id)
    references players (id)
    on delete cascade
);`;

/** A relation and what it becomes, as a first look at the notation. */
function Specimen() {
  const { colours } = parse(SENTENCES);
  return (
    <div className="mt-6 grid grid-cols-2 border border-line-2 bg-label">
      <figure className="p-4">
        <figcaption className="mb-2 font-serif text-ink-2 italic">You state a relation once, as two sentences</figcaption>
        <pre className="font-mono text-small leading-relaxed whitespace-pre-wrap">
          {colours.map(({ span, class: name }, index) => (
            <span key={span.start}>
              {SENTENCES.slice(colours[index - 1]?.span.end ?? 0, span.start)}
              <span className={`kin-${name}`}>{SENTENCES.slice(span.start, span.end)}</span>
            </span>
          ))}
        </pre>
      </figure>
      <figure className="border-l border-line p-4">
        <figcaption className="mb-2 font-serif text-ink-2 italic">and see what it becomes</figcaption>
        <Sql text={BECOMES} />
      </figure>
    </div>
  );
}

function Start({
  demoThere,
  folder,
}: {
  readonly demoThere: boolean;
  readonly folder: { readonly path: string; readonly files: readonly string[] } | null;
}) {
  const navigate = useNavigate();
  const [addTree, adding] = useAddTreeMutation();
  const [openFile, opening] = useOpenFileMutation();
  const [problem, setProblem] = useState<string | null>(null);
  const busy = adding.isLoading || opening.isLoading;

  const add = async (from: 'demo' | 'empty') => {
    setProblem(null);
    const added = await addTree({ from });
    if (added.data !== undefined) await navigate(`/tree/${added.data.id}/design`);
    else setProblem(failureMessage(added.error));
  };
  const take = async (file: File) => {
    setProblem(null);
    const read = await textIn(file);
    if ('problem' in read) {
      setProblem(read.problem);
      return;
    }
    const added = await addTree({ from: 'text', text: read.text });
    if (added.data !== undefined) await navigate(`/tree/${added.data.id}/design`);
    else setProblem(failureMessage(added.error));
  };
  const openBelow = async (path: string) => {
    setProblem(null);
    const opened = await openFile(path);
    if (opened.data !== undefined) await navigate(`/tree/${opened.data.id}/design`);
    else setProblem(failureMessage(opened.error));
  };

  return (
    <div className="space-y-5">
      <div>
        <h2 className="font-serif text-title font-semibold">Look around</h2>
        <p className="mt-1 text-ink-2">
          Cinder Row Instrument Library: branches, players, instruments, loans and ensembles, with some four thousand rows and ten
          queries.
        </p>
        <Button data-act="demo" strong={!demoThere} className="mt-3" disabled={busy} onClick={() => void add('demo')}>
          Open the demo
        </Button>
      </div>
      <div>
        <h2 className="font-serif text-title font-semibold">Begin</h2>
        <p className="mt-1 text-ink-2">A text with one entity, and a scratch database that follows what you type.</p>
        <Button data-act="empty" className="mt-3" disabled={busy} onClick={() => void add('empty')}>
          Start an empty tree
        </Button>
      </div>
      <div>
        <h2 className="font-serif text-title font-semibold">Bring one in</h2>
        <p className="mt-1 text-ink-2">
          A SQLite file or a SQL script. It is only looked at; tables, keys and pivots become sentences; what no sentence says is
          kept, or told.
        </p>
        <Button data-act="bring in" className="mt-3" disabled={busy} onClick={() => void navigate('/bring-in')}>
          Bring in a database
        </Button>
      </div>
      <div>
        <h2 className="font-serif text-title font-semibold">A file of yours</h2>
        {folder === null ? (
          <p className="mt-1 text-ink-2">
            A .kin file in your repository, saved to as you type and watched for what an editor or a checkout changes:{' '}
            <code className="font-mono text-small">family-tree open FILE</code>
          </p>
        ) : (
          <>
            <p className="mt-1 text-ink-2">
              Below{' '}
              <span className="font-mono text-small" title={folder.path}>
                {folder.path.split(/[/]/).at(-1)}
              </span>
              ; saved to as you type, and watched.
            </p>
            {folder.files.length === 0 && <p className="mt-1 text-ink-2">No .kin file is there yet.</p>}
            <ul className="mt-2 max-h-40 overflow-auto">
              {folder.files.map((path) => (
                <li key={path}>
                  <button
                    type="button"
                    disabled={busy}
                    className="font-mono text-small text-selected hover:underline"
                    onClick={() => void openBelow(path)}
                  >
                    {path}
                  </button>
                </li>
              ))}
            </ul>
          </>
        )}
        <div className="mt-3">
          <ChooseFile label="A text, or a model" accept=".kin,.json" disabled={busy} onChoose={(file) => void take(file)}>
            <span className="mt-1 block text-ink-2">Somebody sent you one: a copy of it becomes a tree here.</span>
          </ChooseFile>
        </div>
      </div>
      {problem !== null && (
        <p role="alert" className="sticky bottom-0 border-l-3 border-harm bg-label p-3 shadow-slip">
          {problem}
        </p>
      )}
    </div>
  );
}
