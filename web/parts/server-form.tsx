import { useId, useState } from 'react';
import type { Surroundings } from '../../contract/index.js';
import { failureMessage, useTryDatabaseMutation } from '../app/api.js';
import { Button } from './button.js';
import { Input } from './input.js';

/** An address as a person gives it, and what goes with it. */
export interface ServerChoice {
  readonly address: string;
  readonly password: string | null;
  readonly keepPassword: boolean;
  readonly label: string;
}

/** What such places are mostly called; any other word will do. */
const LABELS = ['local', 'development', 'staging', 'production'];

/** Asks for the address of a server's database, tries it, and tells what is there and what the login may not do. */
export function ServerForm({
  initial,
  absent,
  children,
}: {
  readonly initial: { readonly address: string; readonly label: string; readonly passwordKept: boolean };
  /** What can be done where its server has no such database. */
  absent?(choice: ServerChoice): React.ReactNode;
  /** What can be done with it, once it was tried. */
  children(choice: ServerChoice, found: Surroundings): React.ReactNode;
}) {
  const [choice, setChoice] = useState<ServerChoice>({
    address: initial.address,
    password: null,
    keepPassword: initial.passwordKept,
    label: initial.label,
  });
  const [tryIt, { data, error, isLoading, reset }] = useTryDatabaseMutation();
  const labels = useId();
  const change = (part: Partial<ServerChoice>) => {
    if ('address' in part || 'password' in part) reset();
    setChoice((before) => ({ ...before, ...part }));
  };
  return (
    <form
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        void tryIt({ address: choice.address, password: choice.password });
      }}
    >
      <label className="block">
        Address
        <Input
          code
          className="mt-0.5 block w-full"
          value={choice.address}
          spellCheck={false}
          autoComplete="off"
          placeholder="postgres://me@localhost/shop or mariadb://me@localhost/shop"
          onChange={(event) => change({ address: event.target.value })}
        />
      </label>
      <div className="grid grid-cols-2 gap-3">
        <label className="block">
          Password
          <Input
            type="password"
            code
            className="mt-0.5 block w-full"
            value={choice.password ?? ''}
            autoComplete="off"
            placeholder={initial.passwordKept ? 'the one that is kept' : 'none, or FAMILY_TREE_PASSWORD'}
            onChange={(event) => change({ password: event.target.value === '' ? null : event.target.value })}
          />
        </label>
        <label className="block">
          What kind of place it is
          <Input
            code
            className="mt-0.5 block w-full"
            value={choice.label}
            list={labels}
            maxLength={40}
            placeholder="shown in the top bar, as production"
            onChange={(event) => change({ label: event.target.value })}
          />
          <datalist id={labels}>
            {LABELS.map((label) => (
              <option key={label} value={label} />
            ))}
          </datalist>
        </label>
      </div>
      <label className="flex items-baseline gap-2">
        <input
          type="checkbox"
          checked={choice.keepPassword}
          onChange={(event) => change({ keepPassword: event.target.checked })}
        />
        <span>
          Keep the password, encrypted with a key file in the data folder.{' '}
          <span className="text-ink-2">Else it is asked for again when the program starts.</span>
        </span>
      </label>
      <Button type="submit" disabled={isLoading || choice.address.trim() === ''}>
        {isLoading ? 'Trying it…' : 'Try it'}
      </Button>
      {error !== undefined && (
        <p role="alert" className="border-l-3 border-harm bg-sheet p-3 whitespace-pre-wrap">
          {failureMessage(error)}
        </p>
      )}
      {error !== undefined && 'status' in error && error.status === 404 && absent?.(choice)}
      {data !== undefined && (
        <div className="space-y-3">
          <Found found={data} />
          {children({ ...choice, address: data.address }, data)}
        </div>
      )}
    </form>
  );
}

function Found({ found }: { readonly found: Surroundings }) {
  const tables = found.schemas.reduce((sum, schema) => sum + schema.tables, 0);
  return (
    <div role="status" className="border-l-3 border-line-2 pl-3">
      <p>
        ✓ {found.version}, as <span className="font-mono text-small">{found.user}</span>
        {found.database === '' ? '' : ` in ${found.database}`}: {tables} {tables === 1 ? 'table' : 'tables'} in{' '}
        {found.schemas.length} {found.schemas.length === 1 ? 'schema' : 'schemas'}.
      </p>
      {found.powers !== null && (
        <p className="text-harm">
          ✕ The login {found.powers}. Use one with fewer rights: SQL that a text states could do the same in its name, and is run
          by this one only after you have agreed to it twice.
        </p>
      )}
      {found.limits.map((limit) => (
        <p key={limit} className="text-to-many">
          ▲ {limit}
        </p>
      ))}
    </div>
  );
}
