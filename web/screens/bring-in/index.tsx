import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { TreeList } from '../../../contract/index.js';
import { useTreesQuery } from '../../app/api.js';
import { type BringInSource, useBringIn } from '../../app/bring-in.js';
import { ChooseFile } from '../../parts/choose-file.js';
import { Mark } from '../../parts/mark.js';
import { ThemeButton } from '../../parts/theme-button.js';
import { FromServer } from './from-server.js';
import { WorkProgress } from './work-progress.js';

/** Bringing in: a file, a script, or a database that lies below the folder given at the start. */
export function BringInScreen() {
  const { data } = useTreesQuery(undefined, { refetchOnMountOrArgChange: true });
  const { progress, send } = useBringIn();
  const [problem, setProblem] = useState<string | null>(null);
  const navigate = useNavigate();
  const folder = data?.folder ?? null;
  const limit = data?.uploadLimit ?? Number.POSITIVE_INFINITY;

  const bring = async (wanted: BringInSource) => {
    setProblem(null);
    if (wanted.kind === 'file' && wanted.file.size > limit) {
      setProblem(
        `${wanted.file.name} is larger than the ${Math.round(limit / 1024 / 1024)} MB that may be uploaded. Start the server with --folder, and bring it in where it lies; or with a higher --upload-limit.`,
      );
      return;
    }
    const brought = await send(wanted);
    if ('problem' in brought) setProblem(brought.problem);
    else await navigate(`/tree/${brought.value.tree.id}/arrival`);
  };

  return (
    <div className="flex h-full flex-col">
      <header className="flex h-11 items-center gap-3 border-b border-line-2 px-5">
        <Link to="/" aria-label="Shelf" title="Shelf: your designs">
          <Mark />
        </Link>
        <h1 className="font-serif text-title font-semibold">Bring one in</h1>
        <span className="font-serif text-ink-2 italic">an existing database, as a text that says how it relates</span>
        <span className="ml-auto">
          <ThemeButton />
        </span>
      </header>
      <main className="min-h-0 flex-1 overflow-auto bg-sheet">
        <div className="mx-auto grid max-w-[1120px] grid-cols-[minmax(0,5fr)_minmax(0,4fr)] gap-10 p-8">
          <section aria-labelledby="from" className="space-y-5">
            <h2 id="from" className="font-serif text-title font-semibold">
              From where?
            </h2>
            {progress === null ? (
              <>
                <ChooseFile
                  label="SQLite file or SQL script"
                  accept=".db,.db3,.sqlite,.sqlite3,.sql"
                  disabled={false}
                  onChoose={(file) => void bring({ kind: 'file', file })}
                >
                  <span className="mt-1 block text-ink-2">
                    Drop it here, or choose one. A copy is kept with this program’s data; a script runs into a database of its
                    own, one for PostgreSQL into an embedded one.
                  </span>
                </ChooseFile>
                <div className="border border-line-2 bg-label p-4">
                  <h3 className="font-semibold">A server</h3>
                  <p className="mt-1 mb-2 text-ink-2">
                    PostgreSQL or MariaDB, by its address. Its catalogue is read; no row is copied, and nothing is written.
                  </p>
                  <FromServer onBring={(wanted) => void bring(wanted)} />
                </div>
                <WhereItLies folder={folder} onChoose={(path) => void bring({ kind: 'path', path })} />
              </>
            ) : (
              <WorkProgress progress={progress} />
            )}
            {problem !== null && (
              <p role="alert" className="border-l-3 border-harm bg-label p-3 whitespace-pre-wrap">
                {problem}
              </p>
            )}
          </section>
          <WhatHappens />
        </div>
      </main>
    </div>
  );
}

/** The databases and scripts below the folder that was given at the start; without one, how to give one. */
function WhereItLies({ folder, onChoose }: { readonly folder: TreeList['folder']; onChoose(path: string): void }) {
  return (
    <div className="border border-line-2 bg-label p-4">
      <h3 className="font-semibold">Where it lies</h3>
      {folder === null ? (
        <p className="mt-1 text-ink-2">
          For a large file, or one that you go on working with: start with{' '}
          <code className="font-mono text-small">family-tree serve --folder DIR</code>, and choose it here. Nothing is copied.
        </p>
      ) : (
        <>
          <p className="mt-1 text-ink-2">
            Below{' '}
            <span className="font-mono text-small" title={folder.path}>
              {folder.path.split(/[\\/]/).at(-1)}
            </span>
            ; only looked at, and copied only where reading would leave something beside it.
          </p>
          {folder.databases.length === 0 && <p className="mt-2">No database or script is there.</p>}
          <ul aria-label="Databases and scripts" className="mt-2 max-h-64 overflow-auto">
            {folder.databases.map((path) => (
              <li key={path}>
                <button
                  type="button"
                  className="font-mono text-small text-selected hover:underline"
                  onClick={() => onChoose(path)}
                >
                  {path}
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}

function WhatHappens() {
  return (
    <aside aria-labelledby="what" className="space-y-4">
      <h2 id="what" className="font-serif text-title font-semibold">
        What happens
      </h2>
      {HAPPENS.map(([title, words]) => (
        <div key={title} className="border-l-3 border-line-2 pl-3">
          <p className="font-semibold">{title}</p>
          <p className="text-ink-2">{words}</p>
        </div>
      ))}
      <p className="text-ink-2">
        From the command line: <code className="font-mono text-small">family-tree import shop.db &gt; shop.kin</code>
      </p>
    </aside>
  );
}

const HAPPENS = [
  [
    'It is read, never written',
    'Its catalogue is read, and the statements that made its tables. The file stays as it is, to the byte.',
  ],
  [
    'It is told in sentences',
    'Tables become entities, foreign keys relations with a role at each end, tables of pairs pivots. Names are made from those that are there.',
  ],
  [
    'Nothing is lost',
    'What the notation has no word for is kept as SQL, and the text is compared with the database until the two make the same tables.',
  ],
  ['Nothing is guessed', 'Only what the database states becomes a relation.'],
] as const;
