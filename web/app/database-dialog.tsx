import { useState } from 'react';
import type { DatabaseInUse } from '../../contract/index.js';
import { Button } from '../parts/button.js';
import { Dialog } from '../parts/dialog.js';
import { Select } from '../parts/input.js';
import { ServerForm } from '../parts/server-form.js';
import { failureMessage, useChooseDatabaseMutation, useTreesQuery } from './api.js';
import { useAppDispatch, useAppSelector } from './store.js';
import { placed } from './workspace.js';

/** Chooses where a tree's tables and samples are made. */
export function DatabaseDialog({ onClose }: { onClose(): void }) {
  const dispatch = useAppDispatch();
  const tree = useAppSelector((state) => state.workspace.tree);
  const [choose, { error, isLoading }] = useChooseDatabaseMutation();
  const [wanted, setWanted] = useState<DatabaseInUse['kind'] | 'file'>(
    tree?.kind === 'brought in' ? 'file' : (tree?.inUse.kind ?? 'own file'),
  );
  const [unlocked, setUnlocked] = useState(tree?.inUse.unlocked ?? false);
  if (tree === null) return null;
  const take = async (body: Parameters<typeof choose>[0]['use']) => {
    const answer = await choose({ tree: tree.id, use: body });
    if (answer.data === undefined) return;
    dispatch(placed(answer.data));
    onClose();
  };
  const own = { password: null, keepPassword: false, label: '', unlocked: false };
  return (
    <Dialog title="Database in use" onClose={onClose}>
      <div className="space-y-4 p-5">
        {tree.arrived ? (
          <p>
            This tree looks at the database that it came from
            {tree.inUse.address === null ? '' : `, ${tree.inUse.address}`}. Nothing is written to it. To look at another, bring
            that one in as a tree of its own.
          </p>
        ) : (
          <>
            <p className="text-ink-2">
              The tables of the text and its sample rows are made in a scratch database on the engine that you choose, and made
              anew as you type; or the text speaks of a file that is there. What is there already is not touched.
            </p>
            <fieldset className="space-y-1">
              <legend className="sr-only">Engine</legend>
              {CHOICES.map(([kind, title, about]) => (
                <label key={kind} className="flex items-baseline gap-2">
                  <input type="radio" name="engine" checked={wanted === kind} onChange={() => setWanted(kind)} />
                  <span>
                    <span className="font-semibold">{title}</span> <span className="text-ink-2">{about}</span>
                  </span>
                </label>
              ))}
            </fieldset>
            {wanted === 'own file' && (
              <Button strong disabled={isLoading} onClick={() => void take({ ...own, address: null })}>
                Use its own SQLite file
              </Button>
            )}
            {wanted === 'file' && (
              <OwnFile busy={isLoading} onTake={(file) => void take({ ...own, address: `sqlite:${file}` })} />
            )}
            {wanted === 'embedded' && (
              <Button strong disabled={isLoading} onClick={() => void take({ ...own, address: 'postgres:embedded' })}>
                {isLoading ? 'Starting it…' : 'Use the embedded PostgreSQL'}
              </Button>
            )}
            {wanted === 'server' && (
              <ServerForm
                initial={{
                  address: tree.inUse.kind === 'server' ? (tree.inUse.address ?? '') : '',
                  label: tree.inUse.label ?? '',
                  passwordKept: tree.inUse.passwordKept,
                }}
              >
                {(choice) => (
                  <>
                    <label className="flex items-baseline gap-2">
                      <input type="checkbox" checked={unlocked} onChange={(event) => setUnlocked(event.target.checked)} />
                      <span>
                        Unlock it: scratch databases may be made there.{' '}
                        <span className="text-ink-2">
                          Their names begin with family_tree_; they are taken away when the text changes or the program ends.
                        </span>
                      </span>
                    </label>
                    <Button strong disabled={isLoading} onClick={() => void take({ ...choice, unlocked })}>
                      {isLoading ? 'Taking it…' : unlocked ? 'Use this server' : 'Use this server, locked'}
                    </Button>
                  </>
                )}
              </ServerForm>
            )}
            {error !== undefined && (
              <p role="alert" className="border-l-3 border-harm bg-sheet p-3">
                {failureMessage(error)}
              </p>
            )}
          </>
        )}
      </div>
    </Dialog>
  );
}

/** Chooses a SQLite file that is there: the text may say more of it than its catalogue does. */
function OwnFile({ busy, onTake }: { readonly busy: boolean; onTake(file: string): void }) {
  const { data } = useTreesQuery();
  const files = data?.folder?.databases.filter((path) => !/\.sql$/i.test(path)) ?? [];
  const [chosen, setChosen] = useState<string | null>(null);
  const file = chosen ?? files[0] ?? '';
  if (data?.folder == null)
    return (
      <p className="text-ink-2">
        Start the program with the folder that the file lies in:{' '}
        <code className="font-mono text-small">family-tree serve --folder .</code>
      </p>
    );
  if (files.length === 0)
    return (
      <p className="text-ink-2">
        No SQLite file lies below <span className="font-mono text-small">{data.folder.path}</span>.
      </p>
    );
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        onTake(file);
      }}
    >
      <Select aria-label="SQLite file" code className="flex-1" value={file} onChange={(event) => setChosen(event.target.value)}>
        {files.map((path) => (
          <option key={path}>{path}</option>
        ))}
      </Select>
      <Button strong type="submit" disabled={busy || file === ''}>
        Look at this file
      </Button>
    </form>
  );
}

const CHOICES = [
  ['own file', 'Its own SQLite file', 'in the data folder; nothing to set up'],
  ['file', 'A SQLite file of yours', 'looked at as it is; the text may say more of it than its catalogue'],
  ['embedded', 'Embedded PostgreSQL', 'in this program; takes some seconds the first time'],
  ['server', 'A server', 'PostgreSQL or MariaDB, by its address'],
] as const;
