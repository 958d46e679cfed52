import { useState } from 'react';
import { Button } from '../parts/button.js';
import { Dialog } from '../parts/dialog.js';
import { LineDiff } from '../parts/line-diff.js';
import { failureMessage, useRevisionQuery, useRevisionsQuery } from './api.js';
import { store, useAppDispatch, useAppSelector } from './store.js';
import { textChanged } from './workspace.js';

/** Every revision of the text: what changed in it, and a way back to it. */
export function RevisionsDialog({ tree, onClose }: { readonly tree: string; onClose(): void }) {
  const dispatch = useAppDispatch();
  const now = useAppSelector((state) => state.workspace.text);
  const { data, error } = useRevisionsQuery(tree, { refetchOnMountOrArgChange: true });
  const [chosen, setChosen] = useState<number | null>(null);
  const [against, setAgainst] = useState<'before' | 'now'>('before');
  const revisions = data?.revisions ?? [];
  const number = chosen ?? revisions[0]?.number ?? null;
  const revision = useRevisionQuery({ tree, number: number ?? 1 }, { skip: number === null });
  const before = useRevisionQuery({ tree, number: (number ?? 2) - 1 }, { skip: number === null || number < 2 });
  const text = revision.data?.text;
  return (
    <Dialog title="Revisions" wide onClose={onClose}>
      <div className="grid h-[74vh] grid-cols-[280px_minmax(0,1fr)]">
        <ol aria-label="Revisions" className="overflow-auto border-r border-line py-1">
          {error !== undefined && <li className="px-5 py-2 text-harm">{failureMessage(error)}</li>}
          {revisions.map((item) => (
            <li key={item.number}>
              <button
                type="button"
                aria-current={item.number === number}
                className={`block w-full px-5 py-1.5 text-left ${item.number === number ? 'bg-wash' : 'hover:bg-sheet'}`}
                onClick={() => setChosen(item.number)}
              >
                <span className="flex items-baseline justify-between">
                  <span className="font-semibold">{item.number}</span>
                  <span className="font-mono text-small">
                    {item.added > 0 && <span className="text-fine">+{item.added}</span>}{' '}
                    {item.removed > 0 && <span className="text-harm">−{item.removed}</span>}
                  </span>
                </span>
                <span className="block text-small text-ink-2">
                  {moment(item.savedAt)}
                  {item.source === 'file' && ', from the file'}
                </span>
              </button>
            </li>
          ))}
        </ol>
        <div className="flex min-h-0 flex-col">
          <div className="flex shrink-0 items-center gap-3 border-b border-line px-5 py-2">
            <fieldset aria-label="Compare with" className="flex border border-line-2">
              {(['before', 'now'] as const).map((word) => (
                <button
                  key={word}
                  type="button"
                  aria-pressed={against === word}
                  className={`px-2.5 py-0.5 ${against === word ? 'bg-ink text-label' : ''}`}
                  onClick={() => setAgainst(word)}
                >
                  {word === 'before' ? 'against the one before' : 'against the text now'}
                </button>
              ))}
            </fieldset>
            <Button
              className="ml-auto"
              disabled={text === undefined || text === now}
              onClick={() => {
                if (text === undefined) return;
                dispatch(textChanged(text, `go back to revision ${number}`));
                onClose();
              }}
            >
              Go back to this text
            </Button>
          </div>
          {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region has to be reached by the keyboard */}
          <div tabIndex={0} className="min-h-0 flex-1 overflow-auto py-2">
            {text === undefined ? (
              <p className="p-4 text-ink-2">Fetching it…</p>
            ) : against === 'before' ? (
              <LineDiff before={number === 1 ? '' : (before.data?.text ?? text)} after={text} />
            ) : (
              <LineDiff before={text} after={store.getState().workspace.text} />
            )}
          </div>
          <p className="shrink-0 border-t border-line px-5 py-1.5 text-small text-ink-2">
            Going back writes a new revision; none is ever lost, and Undo takes it back.
          </p>
        </div>
      </div>
    </Dialog>
  );
}

function moment(written: string): string {
  return new Date(written).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'medium' });
}
