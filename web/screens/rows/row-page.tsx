import { linkText, type RowName } from '../../../core/edits/index.js';
import { shownKey } from '../../../core/values/index.js';
import type { DesignView, EntityView, RoleView } from '../../../core/view-models/index.js';
import { failureMessage, useRowsQuery } from '../../app/api.js';
import { Refusal } from '../../app/refusal.js';
import { useAppSelector } from '../../app/store.js';
import { Button } from '../../parts/button.js';
import { FieldValue, Hidden, isHidden } from '../../parts/field-value.js';
import { nameOf } from './edit/entries.js';
import { RowDialogs, type ShownDialog, useRowDialogs } from './edit/row-dialogs.js';
import { throughOf } from './edit/row-form.js';
import { useMayWrite, useWrite } from './edit/use-write.js';
import { WrittenRows } from './edit/written-rows.js';
import { useWalk } from './place.js';
import { danglingKey, keyOf, kindOf, titleOf } from './row-parts.js';
import { Trail } from './trail.js';
import type { Row } from './use-window.js';
import { Why } from './why.js';

const MOST_CHILDREN = 8;

/** One row as a page: its fields, what it points at, and who points at it. */
export function RowPage({
  tree,
  entity,
  rowKey,
  view,
}: {
  readonly tree: string;
  readonly entity: EntityView;
  readonly rowKey: string;
  readonly view: DesignView;
}) {
  const ask = { entity: entity.name, where: '', key: rowKey, orderBy: '', via: null, from: 0, count: 1 };
  const { data, error, isLoading } = useRowsQuery({ tree, ask });
  const walk = useWalk();
  const mayWrite = useMayWrite() && !entity.given;
  const dialogs = useRowDialogs();
  const row = data?.ok === true ? data.rows[0] : undefined;
  const title = row === undefined ? `${entity.name} ${shownKey(rowKey)}` : titleFor(row, entity);
  const isOwn = (target: string) => target === entity.name || (row !== undefined && target === kindOf(row, entity.name));
  return (
    <div className="min-h-0 overflow-auto">
      {error !== undefined ? (
        <p className="p-8 text-harm">{failureMessage(error)}</p>
      ) : isLoading || data === undefined ? (
        <p className="p-8 text-ink-2">Fetching the row…</p>
      ) : row === undefined ? (
        <div className="p-8">
          <Trail steps={walk.trail} onBack={walk.back} />
          <p className="mt-2">
            {data.ok
              ? `There is no ${entity.name} with the key ${shownKey(rowKey)}. It may have gone when the rows were made anew.`
              : data.problems.join(' ')}
          </p>
          {data.ok && <Why tree={tree} row={nameOf(entity.name, rowKey, view.entities)} missing />}
        </div>
      ) : (
        <FoundRow
          tree={tree}
          entity={entity}
          rowKey={rowKey}
          view={view}
          row={row}
          title={title}
          dialogs={dialogs}
          mayWrite={mayWrite}
          walk={walk}
        />
      )}
      {/* It outlives the row that it deletes, to say what went. */}
      <RowDialogs
        tree={tree}
        view={view}
        entity={entity}
        dialogs={dialogs}
        mayWrite={mayWrite}
        onOpen={(target, key) => walk.toRow(target, key, title)}
        onWritten={(target, key) => (isOwn(target) ? undefined : walk.toRow(target, key, title))}
      />
    </div>
  );
}

interface FoundRowProps {
  readonly tree: string;
  readonly entity: EntityView;
  readonly rowKey: string;
  readonly view: DesignView;
  readonly row: Row;
  readonly title: string;
  readonly dialogs: ShownDialog;
  readonly mayWrite: boolean;
  readonly walk: ReturnType<typeof useWalk>;
}

function FoundRow({ tree, entity, rowKey, view, row, title, dialogs, mayWrite, walk }: FoundRowProps) {
  const kind = kindOf(row, entity.name);
  const ends = entity.ends.filter(({ kinds }) => kinds === null || kinds.includes(kind));
  return (
    <article aria-label={`${entity.name} ${rowKey}`} className="px-6 py-4">
      <Trail steps={walk.trail} onBack={walk.back} />
      <header className="flex items-baseline gap-3">
        <h2 className="font-serif text-[22px] font-semibold">{title}</h2>
        {title !== `${entity.name} ${shownKey(rowKey)}` && (
          <span className="text-ink-2">
            {kind} {shownKey(rowKey)}
          </span>
        )}
        <RowButtons row={row} name={nameOf(entity.name, rowKey, view.entities)} dialogs={dialogs} mayWrite={mayWrite} />
      </header>
      <div className="mt-3 grid grid-cols-[minmax(0,4fr)_minmax(0,5fr)] gap-8">
        <div>
          <Fields row={row} entity={entity} />
          <Why tree={tree} row={nameOf(entity.name, rowKey, view.entities)} />
          <h3 className="mt-5 mb-1 font-serif text-ink-2 italic">It points at</h3>
          <ul className="border border-line bg-label">
            {ends
              .filter(({ many }) => !many)
              .map((role) => (
                <li key={role.id} className="flex items-baseline gap-4 border-b border-line px-4 py-1 last:border-0">
                  <span
                    className="w-32 shrink-0 truncate font-mono text-small text-to-one"
                    title={role.path ? 'a path over other relations' : `relation ${role.relation}`}
                  >
                    {role.name}
                  </span>
                  <ToOne row={row} role={role} onOpen={(target, key) => walk.toRow(target, key, title)} />
                </li>
              ))}
            {ends.every(({ many }) => many) && <li className="px-4 py-1 text-ink-2">Nothing.</li>}
          </ul>
        </div>
        <div className="space-y-4">
          {ends
            .filter(({ many }) => many)
            .map((role) => (
              <Kin
                key={role.id}
                tree={tree}
                owner={entity}
                ownerKey={rowKey}
                ownerTitle={title}
                role={role}
                target={view.entities.find(({ name }) => name === role.target)}
                walk={walk}
                view={view}
                dialogs={mayWrite && !role.path ? dialogs : null}
              />
            ))}
          {ends.every(({ many }) => !many) && <p className="text-ink-2">No relation leads to many from here.</p>}
        </div>
      </div>
    </article>
  );
}

/** What can be done with the row; where nothing is written, what a delete would reach can still be asked. */
function RowButtons({
  row,
  name,
  dialogs,
  mayWrite,
}: {
  readonly row: Row;
  readonly name: RowName | null;
  readonly dialogs: ShownDialog;
  readonly mayWrite: boolean;
}) {
  const madeHere = useAppSelector((state) => state.workspace.tree?.kind === 'made');
  if (name === null) return null;
  if (!mayWrite)
    return (
      <Button className="ml-auto" onClick={() => dialogs.show({ kind: 'delete', row })}>
        What would a delete reach?
      </Button>
    );
  return (
    <span className="ml-auto flex gap-2">
      <Button onClick={() => dialogs.show({ kind: 'form', purpose: { kind: 'change', row, name } })}>Change</Button>
      <Button onClick={() => dialogs.show({ kind: 'form', purpose: { kind: 'duplicate', row } })}>Duplicate</Button>
      <Button onClick={() => dialogs.show({ kind: 'delete', row })}>Delete…</Button>
      {madeHere && <Button onClick={() => dialogs.show({ kind: 'sample', row })}>Keep as a sample…</Button>}
      <WrittenRows />
    </span>
  );
}

/** The fields of a row; columns that hold keys are told by their roles. */
function Fields({ row, entity }: { readonly row: Row; readonly entity: EntityView }) {
  const declared = new Set(entity.ends.flatMap(({ columns }) => columns));
  const kind = kindOf(row, entity.name);
  return (
    <dl className="grid grid-cols-[auto_1fr] border border-line bg-label font-mono text-small">
      {entity.fields
        .filter(({ name, kinds }) => !declared.has(name) && (kinds === null || kinds.includes(kind)))
        .map((field) => (
          <div key={field.name} className="contents">
            <dt
              className={`border-b border-line py-1 pr-6 pl-4 text-ink-2 ${field.derived ? 'italic' : ''}`}
              title={`${field.type}${field.derived ? ', computed when read' : ''}`}
            >
              {field.title ?? field.name}
            </dt>
            <dd className="border-b border-line py-1 pr-4 break-words">
              <FieldValue value={row[field.name]} field={field} whole />
            </dd>
          </div>
        ))}
    </dl>
  );
}

function ToOne({
  row,
  role,
  onOpen,
}: {
  readonly row: Row;
  readonly role: RoleView;
  onOpen(entity: string, key: unknown): void;
}) {
  const target = row[role.name];
  if (isHidden(target)) return <Hidden />;
  if (typeof target === 'object' && target !== null)
    return (
      <span className="flex min-w-0 items-baseline gap-2">
        <button
          type="button"
          className="truncate text-selected hover:underline"
          onClick={() => onOpen(kindOf(target as Row, role.target), keyOf(target as Row))}
        >
          {titleOf(target as Row)}
        </button>
        <span className="text-small text-ink-3">
          {kindOf(target as Row, role.target)} {shownKey(String(keyOf(target as Row)))}
        </span>
      </span>
    );
  const key = danglingKey(row, role);
  if (key === null)
    return (
      <span title="null" className="text-ink-3">
        –
      </span>
    );
  return (
    <span className="text-harm">
      ✕ {key}, and no {role.targets.join(' or ')} has this key
    </span>
  );
}

/** Those that the row knows over one role: the first of them, and a way to all. */
function Kin({
  tree,
  owner,
  ownerKey,
  ownerTitle,
  role,
  target,
  walk,
  view,
  dialogs,
}: {
  readonly tree: string;
  readonly owner: EntityView;
  readonly ownerKey: string;
  readonly ownerTitle: string;
  readonly role: RoleView;
  readonly target: EntityView | undefined;
  readonly walk: ReturnType<typeof useWalk>;
  readonly view: DesignView;
  /** Where rows are added and linked; null where they are only looked at. */
  readonly dialogs: ShownDialog | null;
}) {
  const unlink = useWrite(tree);
  const via = { entity: owner.name, key: ownerKey, role: role.name };
  const ask = { entity: role.target, where: '', orderBy: '', via, from: 0, count: MOST_CHILDREN };
  const { data } = useRowsQuery({ tree, ask });
  const total = data?.ok === true ? data.total : null;
  const rows = data?.ok === true ? data.rows : [];
  const ownName = nameOf(owner.name, ownerKey, view.entities);
  if (target === undefined) return null;
  return (
    <section aria-label={role.id} className="border border-line bg-label">
      <header className="flex items-baseline gap-2 border-b border-line px-4 py-1">
        <h3
          className="font-mono text-small font-bold text-to-many"
          title={role.path ? 'a path over other relations' : `relation ${role.relation}`}
        >
          {role.id}
        </h3>
        <span className="font-mono text-small">{total === null ? '…' : total.toLocaleString('en')}</span>
        {role.pivot !== null && <span className="text-small text-pivot">◇ {role.pivot.table}</span>}
        {total !== null && total > 0 && (
          <button
            type="button"
            className="ml-auto text-small text-selected hover:underline"
            onClick={() => walk.toRows(owner.name, ownerKey, role.name, role.target, ownerTitle)}
          >
            all as a grid
          </button>
        )}
        {dialogs !== null && ownName !== null && (
          <span className={`flex gap-2 text-small ${total !== null && total > 0 ? '' : 'ml-auto'}`}>
            <button
              type="button"
              className="text-selected hover:underline"
              onClick={() => dialogs.show({ kind: 'link', owner: ownName, title: ownerTitle, role })}
            >
              Link…
            </button>
            <button
              type="button"
              className="text-selected hover:underline"
              onClick={() => {
                const through = throughOf(owner, ownerKey, ownerTitle, role, view.entities);
                dialogs.show({ kind: 'form', purpose: { kind: 'add', through }, of: target });
              }}
            >
              Add…
            </button>
          </span>
        )}
      </header>
      {unlink.problem !== '' && (
        <p role="alert" className="px-4 py-1 text-small text-harm">
          <Refusal text={unlink.problem} />
        </p>
      )}
      {data?.ok === false && <p className="px-4 py-1 text-small text-harm">{data.problems.join(' ')}</p>}
      {total === 0 && <p className="px-4 py-1 text-small text-ink-3">none</p>}
      <ul>
        {rows.map((child) => (
          <li
            key={String(child[target.key])}
            className="flex items-baseline gap-3 border-b border-line px-4 py-0.5 last:border-0"
          >
            <button
              type="button"
              className="shrink-0 text-selected hover:underline"
              onClick={() => walk.toRow(target.name, child[target.key], ownerTitle)}
            >
              {titleFor(child, target)}
            </button>
            <span className="truncate font-mono text-small text-ink-2">
              <Summary row={child} entity={target} role={role} />
            </span>
            {dialogs !== null && ownName !== null && (
              <button
                type="button"
                aria-label={`Unlink ${titleFor(child, target)}`}
                title="Unlink"
                className="ml-auto shrink-0 text-small text-ink-3 hover:text-harm"
                onClick={() => {
                  const other = nameOf(kindOf(child, target.name), child[target.key], view.entities);
                  if (other !== null) void unlink.write(linkText('unlink', ownName, role.name, [other]));
                }}
              >
                unlink
              </button>
            )}
          </li>
        ))}
      </ul>
      {total !== null && total > rows.length && (
        <p className="px-4 py-0.5 text-small text-ink-3">and {(total - rows.length).toLocaleString('en')} more</p>
      )}
    </section>
  );
}

/** A few words of a row beside its title: the pivot's fields, and what else it points at. */
function Summary({ row, entity, role }: { readonly row: Row; readonly entity: EntityView; readonly role: RoleView }) {
  const pivot = role.pivot === null ? null : row[role.pivot.table];
  const others = entity.ends.filter(
    ({ many, relation, name }) => !many && relation !== role.relation && typeof row[name] === 'object',
  );
  const fields = entity.fields.filter(
    ({ name, key, kind, derived }) =>
      !key && !derived && name !== entity.shownField && ['date', 'timestamp', 'choice', 'decimal'].includes(kind),
  );
  return (
    <>
      {role.pivot?.fields.map((field) => (
        <span key={field.name} className="mr-3">
          <span className="text-pivot">◇ {field.name}</span>{' '}
          <FieldValue value={typeof pivot === 'object' && pivot !== null ? (pivot as Row)[field.name] : null} field={field} />
        </span>
      ))}
      {others.map(({ name }) => {
        const target = row[name];
        return target === null ? null : (
          <span key={name} className="mr-3">
            {titleOf(target as Row)}
          </span>
        );
      })}
      {fields.slice(0, 2).map((field) => (
        <span key={field.name} className="mr-3">
          <span className="text-ink-3">{field.name}</span> <FieldValue value={row[field.name]} field={field} />
        </span>
      ))}
    </>
  );
}

function titleFor(row: Row, entity: EntityView): string {
  const title = titleOf(row);
  return title === shownKey(String(row[entity.key])) ? `${entity.name} ${title}` : title;
}
