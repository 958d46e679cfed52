import { useState } from 'react';
import { Link } from 'react-router';
import type { TreeSummary } from '../../../contract/index.js';
import { withTitle } from '../../../core/edits/index.js';
import { api, failureMessage, useSetOnShelfMutation } from '../../app/api.js';
import { saveText } from '../../app/save-text.js';
import { useAppDispatch } from '../../app/store.js';
import { Input } from '../../parts/input.js';

/** Above so many designs they are looked for by a word. */
const MANY = 6;
const ASIDE = 'text-selected hover:underline';

/** The designs on the shelf, the last saved first. */
export function Trees({ trees }: { readonly trees: readonly TreeSummary[] }) {
  const [wish, setWish] = useState('');
  const words = wish.trim().toLowerCase();
  const found = trees.filter(({ title, file }) => `${title} ${file ?? ''}`.toLowerCase().includes(words));
  return (
    <>
      {trees.length > MANY && (
        <Input
          type="search"
          aria-label="Find a design"
          placeholder="Find a design"
          className="mt-4 w-72"
          value={wish}
          onChange={(event) => setWish(event.target.value)}
        />
      )}
      {found.length === 0 && <p className="mt-4 text-ink-2">No design is called so.</p>}
      <ul aria-label="Designs" className="mt-4 grid grid-cols-[repeat(auto-fill,minmax(260px,1fr))] gap-4">
        {found.map((tree) => (
          <TreeSlip key={tree.id} tree={tree} />
        ))}
      </ul>
    </>
  );
}

function TreeSlip({ tree }: { readonly tree: TreeSummary }) {
  const [renaming, setRenaming] = useState(false);
  const [setOnShelf] = useSetOnShelfMutation();
  return (
    <li className="flex flex-col border border-line-2 bg-label focus-within:border-selected hover:border-selected">
      {renaming ? (
        <Rename tree={tree} onDone={() => setRenaming(false)} />
      ) : (
        <Link to={`/tree/${tree.id}/design`} className="block flex-1 p-4 pb-2">
          <span className="block font-serif text-title leading-snug font-semibold wrap-anywhere">{tree.title}</span>
          <span className="mt-2 block text-small text-ink-2">
            {tree.entities} {tree.entities === 1 ? 'entity' : 'entities'} ·{' '}
            {tree.file !== null ? (
              <span className="font-mono" title={tree.file}>
                {tree.file.split(/[\\/]/).at(-1)}
              </span>
            ) : tree.kind === 'made' ? (
              'made here'
            ) : (
              'a database brought in'
            )}
          </span>
          <span className="block text-small text-ink-3">
            revision {tree.revision}, saved {moment(tree.savedAt)}
          </span>
        </Link>
      )}
      <div className="flex gap-3 px-4 pb-2.5 text-small">
        <button type="button" className={ASIDE} aria-label={`Rename ${tree.title}`} onClick={() => setRenaming(!renaming)}>
          {renaming ? 'Leave it' : 'Rename'}
        </button>
        <button
          type="button"
          className={ASIDE}
          aria-label={`Take ${tree.title} off the shelf`}
          onClick={() => void setOnShelf({ tree: tree.id, takenOff: true })}
        >
          Take off the shelf
        </button>
      </div>
    </li>
  );
}

/** Another title, as a change of the text that bears it. */
function Rename({ tree, onDone }: { readonly tree: TreeSummary; onDone(): void }) {
  const dispatch = useAppDispatch();
  const [title, setTitle] = useState(tree.title);
  const [problem, setProblem] = useState<string | null>(null);
  const rename = async () => {
    const asked = dispatch(api.endpoints.tree.initiate(tree.id, { subscribe: false, forceRefetch: true }));
    const { data: now, error } = await asked;
    if (now === undefined) {
      setProblem(failureMessage(error));
      return;
    }
    const saved = await saveText(dispatch, tree.id, { text: withTitle(now.text, title.trim()), basedOn: now.revision });
    if (saved.kind === 'saved') onDone();
    else setProblem(saved.kind === 'failed' ? saved.message : 'Somebody changed the text meanwhile. Try it once more.');
  };
  return (
    <form
      className="flex-1 p-4 pb-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (title.trim() !== '') void rename();
      }}
    >
      <Input
        autoFocus
        aria-label="New title"
        maxLength={200}
        className="w-full font-serif text-title font-semibold"
        value={title}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setTitle(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Escape') onDone();
        }}
      />
      <p className="mt-1 text-small text-ink-2">{problem ?? 'Enter saves it, in the first line of the text.'}</p>
    </form>
  );
}

/** The designs that were taken off; each can be looked at, and put back. */
export function TakenOff({ trees }: { readonly trees: readonly TreeSummary[] }) {
  const [setOnShelf] = useSetOnShelfMutation();
  if (trees.length === 0) return null;
  return (
    <details className="mt-8 text-ink-2">
      <summary className="cursor-pointer">Taken off the shelf: {trees.length}</summary>
      <ul aria-label="Taken off" className="mt-2 space-y-1">
        {trees.map((tree) => (
          <li key={tree.id} className="flex items-baseline gap-3">
            <Link to={`/tree/${tree.id}/design`} className="font-serif font-semibold text-ink hover:underline">
              {tree.title}
            </Link>
            <span className="text-small">saved {moment(tree.savedAt)}</span>
            <button
              type="button"
              className={`text-small ${ASIDE}`}
              aria-label={`Put ${tree.title} back`}
              onClick={() => void setOnShelf({ tree: tree.id, takenOff: false })}
            >
              Put it back
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}

function moment(savedAt: string): string {
  return new Date(savedAt).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
}
