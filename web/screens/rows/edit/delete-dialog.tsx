import { useState } from 'react';
import { Link } from 'react-router';
import type { CommandsDone, ImpactTold } from '../../../../contract/index.js';
import { failureMessage, useImpactQuery } from '../../../app/api.js';
import { reachLink } from '../../../app/links.js';
import { Refusal } from '../../../app/refusal.js';
import { Button } from '../../../parts/button.js';
import { Dialog } from '../../../parts/dialog.js';
import { Sql } from '../../../parts/sql.js';
import { useWrite } from './use-write.js';

interface DeleteDialogProps {
  readonly tree: string;
  /** What is deleted, in words. */
  readonly what: string;
  /** The commands that delete it. */
  readonly commands: string;
  /** Whether it can be done from this page, rather than only be told. */
  readonly mayWrite: boolean;
  onClose(): void;
  onOpen(entity: string, key: string): void;
}

type Told = Extract<ImpactTold, { ok: true }>;
type Group = Told['groups'][number];

/** Says what a delete takes along, empties, or is refused by, before anything is touched; and afterwards whether it was so. */
export function DeleteDialog({ tree, what, commands, mayWrite, onClose, onOpen }: DeleteDialogProps) {
  const { data, error, isLoading } = useImpactQuery({ tree, rows: commands });
  const { busy, problem, write } = useWrite(tree);
  const [done, setDone] = useState<{ readonly told: Told; readonly along: Along } | null>(null);
  const told = done?.told ?? (data?.ok === true ? data : null);
  const refused = told?.groups.some(({ effect }) => effect === 'refuses') === true;
  const send = async () => {
    if (data?.ok !== true) return;
    const carried = await write(commands);
    if (carried === null) return;
    setDone({ told: data, along: carried.along });
  };
  return (
    <Dialog title={`Delete ${what}`} onClose={onClose}>
      <div className="space-y-3 px-5 py-3">
        {isLoading && <p className="text-ink-2">Looking at what it would take along…</p>}
        {error !== undefined && <p className="text-harm">{failureMessage(error)}</p>}
        {data?.ok === false && done === null && <p className="text-harm">{data.problems.join(' ')}</p>}
        {told !== null && <Reached told={told} onOpen={onOpen} />}
        {done !== null && <Proved told={done.told} along={done.along} />}
        {problem !== '' && (
          <p role="alert" className="text-harm">
            <Refusal text={problem} />
          </p>
        )}
        <div className="flex items-baseline justify-end gap-2">
          {done === null && told !== null && told.groups.length > 0 && (
            <Link className="mr-auto text-selected hover:underline" to={reachLink(tree, commands)}>
              See it on the map
            </Link>
          )}
          <Button onClick={onClose}>{done === null ? 'Leave it' : 'Close'}</Button>
          {done === null && mayWrite && (
            <Button strong disabled={busy || told === null || told.rows.length === 0 || refused} onClick={() => void send()}>
              {refused ? 'Refused' : 'Delete'}
            </Button>
          )}
        </div>
      </div>
    </Dialog>
  );
}

const EFFECTS: Readonly<Record<Group['effect'], string>> = {
  'goes along': 'goes along',
  'is emptied': 'is emptied',
  'gets its default': 'gets its default',
  refuses: 'refuses',
  'may refuse': 'may refuse',
  stays: 'stays, pointing at nothing',
};

const COLOURS: Readonly<Record<Group['effect'], string>> = {
  'goes along': 'text-to-many',
  'is emptied': 'text-to-one',
  'gets its default': 'text-to-one',
  refuses: 'text-harm',
  'may refuse': 'text-harm',
  stays: 'text-harm',
};

function Reached({ told, onOpen }: { readonly told: Told; onOpen(entity: string, key: string): void }) {
  const { groups, rows, unforeseen, sql } = told;
  return (
    <section aria-label="What the delete reaches">
      <p>
        {rows.length === 0
          ? 'No row is meant.'
          : rows
              .map(({ entity, rows: many }) => `${many.toLocaleString('en')} ${many === 1 ? 'row' : 'rows'} of ${entity}`)
              .join(', ')}
        {groups.length === 0 && rows.length > 0 && ', and nothing else is touched.'}
      </p>
      <ul className="mt-2">
        {groups.map((group) => (
          <li
            key={`${group.effect} ${group.table} ${group.over.join()}`}
            className="border-l border-line-2 py-0.5 pl-3"
            style={{ marginLeft: (group.generation - 1) * 22 }}
          >
            <span className={`font-semibold ${COLOURS[group.effect]}`}>{EFFECTS[group.effect]}</span>{' '}
            <span className="font-semibold">{group.rows.toLocaleString('en')}</span> of{' '}
            <span className="font-mono">{group.of}</span>{' '}
            <span className="text-ink-2">
              over{' '}
              {group.ways.length > 0
                ? group.ways.map((way) => `${way.over} ${way.rows.toLocaleString('en')}`).join(', ')
                : group.over.join(', ')}
              {group.by !== '' && group.effect !== 'goes along' && (
                <>
                  , by <span className="font-mono text-small">{group.by}</span>
                </>
              )}
            </span>
            {group.looks.length > 0 && (
              <p className="text-small">
                {group.looks.map(({ entity, key, shown }) => (
                  <button
                    key={key}
                    type="button"
                    className="mr-3 text-selected hover:underline"
                    onClick={() => onOpen(entity, key)}
                  >
                    {shown}
                  </button>
                ))}
                {group.rows > group.looks.length && <span className="text-ink-3">…</span>}
              </p>
            )}
          </li>
        ))}
      </ul>
      {unforeseen.map(({ table, trigger }) => (
        <p key={`${table} ${trigger}`} className="mt-1 text-to-many">
          ▲ The trigger {trigger} of {table} was written by others: what it does is not told here. Rehearse the delete in Try to
          see.
        </p>
      ))}
      {sql.length > 0 && (
        <details className="mt-2">
          <summary className="cursor-pointer text-small text-ink-2">How it was counted</summary>
          <Sql text={sql.join(';\n\n')} />
        </details>
      )}
    </section>
  );
}

type Along = Extract<CommandsDone, { ok: true }>['along'];

/** Whether what went is what was told; where it is not, what went. */
function Proved({ told, along }: { readonly told: Told; readonly along: Along }) {
  const went = (rows: readonly { readonly rows: number }[]) => rows.reduce((sum, one) => sum + one.rows, 0);
  const foretold = went(told.groups.filter(({ effect }) => effect === 'goes along'));
  const gone = went(along.filter(({ role }) => role === null));
  return (
    <p role="status" className={foretold === gone ? 'text-fine' : 'text-harm'}>
      {foretold === gone
        ? `✓ Deleted. ${gone.toLocaleString('en')} ${gone === 1 ? 'row' : 'rows'} went along, as was told.`
        : `Deleted. ${foretold.toLocaleString('en')} rows were told to go along, and ${gone.toLocaleString('en')} did: somebody else wrote meanwhile, or a trigger did more.`}
    </p>
  );
}
