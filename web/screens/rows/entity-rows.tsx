import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { Columns3, X } from 'lucide-react';
import { useMemo, useState } from 'react';
import { shownKey } from '../../../core/values/index.js';
import type { DesignView, EntityView, RoleView } from '../../../core/view-models/index.js';
import { fetched } from '../../app/fetched.js';
import { tryLink, useGo } from '../../app/links.js';
import { Button } from '../../parts/button.js';
import { Sql } from '../../parts/sql.js';
import { columnsOf, type GridColumn, useHidden } from './columns.js';
import { commandsOf } from './edit/entries.js';
import { type DeleteRows, RowDialogs, useRowDialogs } from './edit/row-dialogs.js';
import { throughOf } from './edit/row-form.js';
import { SampleCount } from './edit/sample-count.js';
import { useEntries } from './edit/use-entries.js';
import { useClashes, useGridEditing } from './edit/use-grid-editing.js';
import { useMoving } from './edit/use-moving.js';
import { useMayWrite, useWrite } from './edit/use-write.js';
import { WriteBar } from './edit/write-bar.js';
import { WrittenRows } from './edit/written-rows.js';
import { Files } from './files/files-menu.js';
import { Filter } from './filter.js';
import { Grid } from './grid.js';
import { type RowsQuestion, useAsked, useWalk } from './place.js';
import { Trail } from './trail.js';
import { useWindow } from './use-window.js';

const BesidePanel = fetched(async () => (await import('./beside/panel.js')).default);

/** The rows of one entity: filtered by a condition of the notation, sorted by a click on a head. */
export function EntityRows({
  tree,
  entity,
  view,
}: {
  readonly tree: string;
  readonly entity: EntityView;
  readonly view: DesignView;
}) {
  const { asked, say, leaveVia } = useAsked(entity.name);
  const walk = useWalk();
  const go = useGo();
  const owner = view.entities.find(({ name }) => name === asked.via?.entity);
  const over = owner?.ends.find(({ name }) => name === asked.via?.role) ?? null;
  const columns = useMemo(() => columnsOf(entity, over?.pivot ?? null, view.entities), [entity, over, view.entities]);
  const { hidden, toggle } = useHidden(entity.name);
  const shown = useMemo(() => columns.filter(({ id }) => !hidden.has(id)), [columns, hidden]);
  const roles = useMemo(() => entity.ends.filter(({ many }) => many).map(({ id }) => id), [entity]);
  const data = useWindow(tree, asked, entity.key, roles);
  const { first } = data;
  const total = first?.ok === true ? first.total : 0;
  const here =
    asked.via === null
      ? `${entity.name}${asked.where === '' ? '' : ' …'}`
      : `${asked.via.role} of ${asked.via.entity} ${shownKey(asked.via.key)}`;
  const problems = first?.ok === false ? first : null;
  const mayWrite = useMayWrite();
  const entries = useEntries(tree, entity.name);
  const editing = useGridEditing({ tree, entity, columns: shown, data, total, entries }, mayWrite && !entity.given);
  const clashes = useClashes(entries.cells, entity, columns, data, total);
  const writing = useWrite(tree);
  const moving = useMoving({ entity, entities: view.entities, asked, over, data, total, writing });
  const mayMove = editing !== null && total > 1 ? moving : null;
  const dialogs = useRowDialogs();
  const [isBeside, setBeside] = useState(false);
  const through =
    asked.via === null || owner === undefined || over === null ? null : throughOf(owner, asked.via.key, '', over, view.entities);
  const onWrite = async () => {
    const text = commandsOf(entries.cells, entity, columns, view.entities);
    if (text !== '' && (await writing.write(text)) !== null) entries.clear();
  };
  const found: DeleteRows | null =
    asked.where === '' || asked.via !== null || total === 0 ? null : { entity: entity.name, where: asked.where, rows: total };
  return (
    <section aria-label={entity.name} className="flex min-h-0 min-w-0 flex-col">
      <header className="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-4 py-1.5">
        <Trail steps={walk.trail} onBack={walk.back} />
        <h2 className="font-serif text-title leading-7 font-semibold">{entity.name}</h2>
        {asked.via !== null && <Via via={asked.via} pivot={over?.pivot ?? null} of={entity.name} onLeave={leaveVia} />}
        <span role="status" className="text-small whitespace-nowrap text-ink-2">
          {data.loading ? 'looking…' : first?.ok === true ? `${total.toLocaleString('en')} ${total === 1 ? 'row' : 'rows'}` : ''}
          {first?.ok === true && first.cut && ', and there are more: filter to see the others'}
        </span>
        {mayMove !== null && <span className="text-small whitespace-nowrap text-ink-3">Alt ↑ and Alt ↓ move a row</span>}
        <span className="ml-auto flex items-center gap-2">
          {first?.ok === true && (
            <HowFound
              sql={first.sql}
              milliseconds={first.milliseconds}
              onTry={() => go((id) => tryLink(id, queryText(entity, asked)))}
            />
          )}
          {editing !== null && (over === null || !over.path) && (
            <Button onClick={() => dialogs.show({ kind: 'form', purpose: { kind: 'add', through } })}>
              {asked.via === null ? 'Add a row' : `Add to ${asked.via.role}`}
            </Button>
          )}
          {editing !== null && found !== null && (
            <Button onClick={() => dialogs.show({ kind: 'delete found', found })}>Delete these…</Button>
          )}
          {view.actor !== null && first?.ok === true && (
            <Button aria-pressed={isBeside} onClick={() => setBeside(!isBeside)}>
              Beside somebody else
            </Button>
          )}
          <SampleCount entity={entity} />
          <Files
            onImport={editing === null || asked.via !== null ? null : () => dialogs.show({ kind: 'import' })}
            onExport={first?.ok === true ? () => dialogs.show({ kind: 'export', asked, total }) : null}
          />
          <WrittenRows />
          <ColumnsShown columns={columns} hidden={hidden} onToggle={toggle} />
        </span>
      </header>
      <Filter entity={entity} where={asked.where} findings={problems?.findings ?? NONE} onFilter={(where) => say({ where })} />
      {isBeside && <BesidePanel tree={tree} asked={asked} entity={entity} view={view} onClose={() => setBeside(false)} />}
      {data.failed !== null && (
        <p role="alert" className="p-4 text-harm">
          {data.failed}
        </p>
      )}
      {problems !== null && (
        <p role="alert" className="border-b border-line px-4 py-1.5 text-harm">
          {[...problems.findings.map(({ message }) => message), ...problems.problems].join('\n')}
        </p>
      )}
      <div className={`min-h-0 flex-1 ${data.loading ? 'opacity-60' : ''}`}>
        {first?.ok === true && total === 0 ? (
          <p className="p-6 text-ink-2">
            {asked.where !== ''
              ? 'No row fits this condition. Loosen it, or empty the filter.'
              : asked.via !== null
                ? 'It knows none.'
                : `No row of ${entity.name} yet.`}
          </p>
        ) : (
          first?.ok === true && (
            <Grid
              key={JSON.stringify(asked)}
              entity={entity}
              columns={shown}
              total={total}
              data={data}
              orderBy={asked.orderBy}
              here={here}
              walk={walk}
              editing={editing}
              onMove={mayMove?.move ?? null}
              onWrite={() => void onWrite()}
              onDelete={(row) => dialogs.show({ kind: 'delete', row })}
              onOrder={(orderBy) => say({ orderBy })}
            />
          )
        )}
      </div>
      <WriteBar
        cells={entries.cells}
        clashes={clashes}
        busy={writing.busy}
        problem={mayMove !== null && mayMove.problem !== '' ? mayMove.problem : writing.problem}
        canUndo={entries.canUndo}
        note={editing?.note ?? ''}
        onWrite={() => void onWrite()}
        onUndo={entries.undo}
        onDiscard={() => {
          entries.clear();
          writing.forget();
        }}
        onTakeTheirs={(key, column) => entries.change([{ key, column, cell: null }])}
      />
      <RowDialogs
        tree={tree}
        view={view}
        entity={entity}
        dialogs={dialogs}
        mayWrite={mayWrite}
        onOpen={(target, key) => walk.toRow(target, key, here)}
        onWritten={(target, key) => walk.toRow(target, key, here)}
      />
    </section>
  );
}

const NONE: readonly never[] = [];

/** Over which role of which row these were come to, with a way to all of them. */
function Via({
  via,
  pivot,
  of,
  onLeave,
}: {
  readonly via: NonNullable<RowsQuestion['via']>;
  readonly pivot: RoleView['pivot'];
  readonly of: string;
  onLeave(): void;
}) {
  return (
    <span className="flex items-center gap-1 rounded-sm border border-to-many px-2 text-to-many">
      {via.role} of {via.entity} {shownKey(via.key)}
      {pivot !== null && <span className="text-pivot">◇ {pivot.table}</span>}
      <button type="button" aria-label={`Show all of ${of}`} title={`Show all of ${of}`} onClick={onLeave}>
        <X size={13} />
      </button>
    </span>
  );
}

/** Which columns the grid shows. */
function ColumnsShown({
  columns,
  hidden,
  onToggle,
}: {
  readonly columns: readonly GridColumn[];
  readonly hidden: ReadonlySet<string>;
  onToggle(column: string): void;
}) {
  return (
    <Popover className="relative">
      <PopoverButton className="flex items-center gap-1.5 rounded-sm border border-line-2 bg-label px-2.5 py-0.5 hover:border-ink-3">
        <Columns3 size={14} aria-hidden="true" /> Columns
        {hidden.size > 0 && (
          <span className="text-small text-ink-3">
            {columns.filter(({ id }) => !hidden.has(id)).length} of {columns.length}
          </span>
        )}
      </PopoverButton>
      <PopoverPanel className="absolute top-8 right-0 z-30 max-h-96 w-60 overflow-auto border border-line-2 bg-label p-3 shadow-slip">
        {columns.map(({ id }) => (
          <label key={id} className="flex items-center gap-2 py-0.5 font-mono text-small">
            <input type="checkbox" checked={!hidden.has(id)} onChange={() => onToggle(id)} /> {id}
          </label>
        ))}
      </PopoverPanel>
    </Popover>
  );
}

function queryText(entity: EntityView, { where, orderBy }: { readonly where: string; readonly orderBy: string }): string {
  return [
    `from ${entity.name}`,
    ...(where === '' ? [] : [`where ${where}`]),
    ...(orderBy === '' ? [] : [`order by ${orderBy}`]),
    'limit 100',
  ].join('\n');
}

function HowFound({ sql, milliseconds, onTry }: { readonly sql: string; readonly milliseconds: number; onTry(): void }) {
  return (
    <Popover className="relative">
      <PopoverButton className="text-small text-ink-2 underline decoration-dotted underline-offset-2 hover:text-ink">
        {milliseconds.toFixed(0)} ms, SQL
      </PopoverButton>
      <PopoverPanel className="absolute top-7 right-0 z-30 w-[520px] border border-line-2 bg-label p-3 shadow-slip">
        <p className="mb-2 text-small text-ink-2">
          The order is found once, as keys; each window is then fetched by its keys.{' '}
          <button type="button" className="text-selected hover:underline" onClick={onTry}>
            Open it in Try
          </button>
        </p>
        <Sql text={sql} />
      </PopoverPanel>
    </Popover>
  );
}
