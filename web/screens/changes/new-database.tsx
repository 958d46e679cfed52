import { useState } from 'react';
import type { NewDesignDatabase } from '../../../contract/index.js';
import { failureMessage, useAddDatabaseMutation } from '../../app/api.js';
import { Button } from '../../parts/button.js';
import { Input } from '../../parts/input.js';
import { ServerForm } from '../../parts/server-form.js';

/** Gives a design a database: a new SQLite file, or one on a server. */
export function NewDatabase({ tree, onAdded }: { readonly tree: string; onAdded(id: string): void }) {
  const [add, { error, isLoading }] = useAddDatabaseMutation();
  const [kind, setKind] = useState<'file' | 'server'>('file');
  const [label, setLabel] = useState('local');
  const [samples, setSamples] = useState(true);
  const take = async (wanted: NewDesignDatabase) => {
    const answer = await add({ tree, wanted });
    if (answer.data !== undefined) onAdded(answer.data.id);
  };
  return (
    <div className="space-y-4">
      <fieldset className="flex gap-6">
        <legend className="sr-only">Kind of database</legend>
        <label className="flex items-baseline gap-2">
          <input type="radio" name="kind" checked={kind === 'file'} onChange={() => setKind('file')} />
          <span>A new SQLite file</span>
        </label>
        <label className="flex items-baseline gap-2">
          <input type="radio" name="kind" checked={kind === 'server'} onChange={() => setKind('server')} />
          <span>A database on a server</span>
        </label>
      </fieldset>
      {kind === 'file' ? (
        <form
          className="space-y-3"
          onSubmit={(event) => {
            event.preventDefault();
            void take({ kind: 'file', label, samples });
          }}
        >
          <label className="block">
            Called
            <Input
              className="ml-2 w-40"
              value={label}
              required
              maxLength={40}
              onChange={(event) => setLabel(event.target.value)}
            />
          </label>
          <label className="flex items-baseline gap-2">
            <input type="checkbox" checked={samples} onChange={(event) => setSamples(event.target.checked)} />
            <span>
              with the tables and sample rows of the text as it is now <span className="text-ink-2">(else it is empty)</span>
            </span>
          </label>
          <Button strong type="submit" disabled={isLoading || label.trim() === ''}>
            {isLoading ? 'Making it…' : 'Make the file'}
          </Button>
        </form>
      ) : (
        <ServerForm
          initial={{ address: '', label: 'staging', passwordKept: false }}
          absent={(choice) => (
            <Button
              strong
              disabled={isLoading || choice.label.trim() === ''}
              onClick={() => void take({ kind: 'server', ...choice, make: true })}
            >
              {isLoading ? 'Making it…' : 'Make it there, empty'}
            </Button>
          )}
        >
          {(choice) => (
            <>
              <p className="text-ink-2">
                To see what the text asks of it, an empty database whose name begins with family_tree_ is made on the server, and
                taken away again. The database itself is only read until a plan is applied.
              </p>
              <Button
                strong
                disabled={isLoading || choice.label.trim() === ''}
                onClick={() => void take({ kind: 'server', ...choice, make: false })}
              >
                {isLoading ? 'Adding it…' : 'Add this database'}
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
    </div>
  );
}
