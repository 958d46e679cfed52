import { useState } from 'react';
import type { Surroundings } from '../../../contract/index.js';
import type { BringInSource } from '../../app/bring-in.js';
import { Button } from '../../parts/button.js';
import { Input } from '../../parts/input.js';
import { type ServerChoice, ServerForm } from '../../parts/server-form.js';

const NOTHING_KNOWN = { address: '', label: '', passwordKept: false };

/** Brings in a database from a server: all of it, or the schemas that are ticked. */
export function FromServer({ onBring }: { onBring(wanted: BringInSource): void }) {
  return (
    <ServerForm initial={NOTHING_KNOWN}>
      {(choice, found) => <Schemas choice={choice} found={found} onBring={onBring} />}
    </ServerForm>
  );
}

function Schemas({
  choice,
  found,
  onBring,
}: {
  readonly choice: ServerChoice;
  readonly found: Surroundings;
  onBring(wanted: BringInSource): void;
}) {
  const isMariadb = choice.address.startsWith('mariadb:');
  const own = found.schemas.filter(({ name }) => !isMariadb || found.database === '' || name === found.database);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [tablesOnly, setTablesOnly] = useState('');
  const [only, setOnly] = useState(own[0]?.name ?? '');
  const wanted = isMariadb ? [only] : own.map(({ name }) => name).filter((name) => !left.has(name));
  const tables = own.filter(({ name }) => wanted.includes(name)).reduce((sum, schema) => sum + schema.tables, 0);
  if (own.length === 0) return <p>There is no table in it that this login can see.</p>;
  return (
    <div className="space-y-3">
      {own.length > 1 && (
        <fieldset className="max-h-48 overflow-auto">
          <legend className="text-ink-2">{isMariadb ? 'Which database?' : 'Which schemas?'}</legend>
          {own.map(({ name, tables: count }) => (
            <label key={name} htmlFor={`schema ${name}`} className="flex items-baseline gap-2">
              {isMariadb ? (
                <input id={`schema ${name}`} type="radio" name="schema" checked={only === name} onChange={() => setOnly(name)} />
              ) : (
                <input
                  id={`schema ${name}`}
                  type="checkbox"
                  checked={!left.has(name)}
                  onChange={(event) => {
                    const next = new Set(left);
                    if (event.target.checked) next.delete(name);
                    else next.add(name);
                    setLeft(next);
                  }}
                />
              )}
              <span className="font-mono text-small">{name}</span>
              <span className="text-ink-2">
                {count} {count === 1 ? 'table' : 'tables'}
              </span>
            </label>
          ))}
        </fieldset>
      )}
      <label className="block">
        Only these tables
        <Input
          code
          className="mt-0.5 block w-full"
          value={tablesOnly}
          placeholder="all; or names with * for anything, as loan*, players"
          onChange={(event) => setTablesOnly(event.target.value)}
        />
      </label>
      <Button
        strong
        disabled={tables === 0}
        onClick={() =>
          onBring({ kind: 'server', ask: { ...choice, schemas: isMariadb || left.size > 0 ? wanted : null, tables: tablesOnly } })
        }
      >
        {tablesOnly.trim() === '' ? `Bring in ${tables} ${tables === 1 ? 'table' : 'tables'}` : 'Bring in these tables'}
      </Button>
    </div>
  );
}
