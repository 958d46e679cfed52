import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { Columns3, X } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { parseQuery } from '../../../core/notation/index.js';
import { shownKey } from '../../../core/values/index.js';
import { useCommands } from '../../app/commands.js';
import { askDesign } from '../../app/design-client.js';
import { tryLink, useGo } from '../../app/links.js';
import { useAppSelector } from '../../app/store.js';
import { Editor } from '../../parts/editor.js';
import { Sql } from '../../parts/sql.js';
import type { DesignView, EntityView } from '../../workers/design-view.js';
import { columnsOf, useHidden } from './columns.js';
import { Grid } from './grid.js';
import { useAsked, useWalk } from './place.js';
import { Trail } from './trail.js';
import { useWindow } from './use-window.js';

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
  return (
    <section aria-label={entity.name} className="flex min-h-0 min-w-0 flex-col">
      <header className="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-4 py-1.5">
        <Trail steps={walk.trail} onBack={walk.back} />
        <h2 className="font-serif text-title leading-7 font-semibold">{entity.name}</h2>
        {asked.via !== null && (
          <span className="flex items-center gap-1 rounded-sm border border-to-many px-2 text-to-many">
            {asked.via.role} of {asked.via.entity} {shownKey(asked.via.key)}
            {over?.pivot !== null && over !== null && <span className="text-pivot">◇ {over.pivot.table}</span>}
            <button
              type="button"
              aria-label={`Show all of ${entity.name}`}
              title={`Show all of ${entity.name}`}
              onClick={leaveVia}
            >
              <X size={13} />
            </button>
          </span>
        )}
        <span role="status" className="text-small whitespace-nowrap text-ink-2">
          {data.loading ? 'looking…' : first?.ok === true ? `${total.toLocaleString('en')} ${total === 1 ? 'row' : 'rows'}` : ''}
          {first?.ok === true && first.cut && ', and there are more: filter to see the others'}
        </span>
        <span className="ml-auto flex items-center gap-2">
          {first?.ok === true && (
            <HowFound
              sql={first.sql}
              milliseconds={first.milliseconds}
              onTry={() => go((id) => tryLink(id, queryText(entity, asked)))}
            />
          )}
          <Popover className="relative">
            <PopoverButton className="flex items-center gap-1.5 rounded-sm border border-line-2 bg-label px-2.5 py-0.5 hover:border-ink-3">
              <Columns3 size={14} aria-hidden="true" /> Columns
              {hidden.size > 0 && (
                <span className="text-small text-ink-3">
                  {shown.length} of {columns.length}
                </span>
              )}
            </PopoverButton>
            <PopoverPanel className="absolute top-8 right-0 z-30 max-h-96 w-60 overflow-auto border border-line-2 bg-label p-3 shadow-slip">
              {columns.map(({ id }) => (
                <label key={id} className="flex items-center gap-2 py-0.5 font-mono text-small">
                  <input type="checkbox" checked={!hidden.has(id)} onChange={() => toggle(id)} /> {id}
                </label>
              ))}
            </PopoverPanel>
          </Popover>
        </span>
      </header>
      <Filter entity={entity} where={asked.where} findings={problems?.findings ?? NONE} onFilter={(where) => say({ where })} />
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
              onOrder={(orderBy) => say({ orderBy })}
            />
          )
        )}
      </div>
    </section>
  );
}

const NONE: readonly never[] = [];

/** A condition that the entity's own names make. */
function exampleFor(entity: EntityView): string {
  const one = entity.ends.find(({ many }) => !many);
  const many = entity.ends.find((end) => end.many);
  const date = entity.fields.find(({ kind, derived }) => kind === 'date' && !derived);
  const parts = [
    ...(date === undefined ? [] : [`${date.name} < today`]),
    ...(many === undefined ? [] : [`count(${many.name}) > 2`]),
    ...(one === undefined ? [] : [`${one.name} is not null`]),
  ];
  return `a condition, as in: ${parts.slice(0, 2).join(' and ') || `${entity.keyFields[0] ?? entity.key} > 10`}`;
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

/** A condition of the notation, completed while it is typed; Enter applies it. */
function Filter({
  entity,
  where,
  findings,
  onFilter,
}: {
  readonly entity: EntityView;
  readonly where: string;
  readonly findings: readonly { readonly part: string; readonly message: string; readonly start: number; readonly end: number }[];
  onFilter(where: string): void;
}) {
  const tree = useAppSelector((state) => state.workspace.text);
  const [written, setWritten] = useState(where);
  const box = useRef<HTMLDivElement>(null);
  const latest = useRef(written);
  latest.current = written;
  useEffect(() => setWritten(where), [where]);
  const prefix = 'from X\nwhere ';
  const colours = useMemo(
    () =>
      parseQuery(`${prefix}${written}`)
        .colours.filter(({ span }) => span.start >= prefix.length)
        .map((token) => ({ ...token, span: { start: token.span.start - prefix.length, end: token.span.end - prefix.length } })),
    [written],
  );
  const marked = useMemo(
    () =>
      written === where
        ? findings
            .filter(({ part }) => part === 'where')
            .map(({ message, start, end }) => ({ weight: 'error' as const, message, span: { start, end } }))
        : NONE,
    [findings, written, where],
  );
  const commands = useMemo(
    () => [
      {
        id: 'filter',
        title: 'Filter the rows by a condition',
        group: 'Rows' as const,
        words: 'where search find condition',
        keys: '/',
        run: () => box.current?.querySelector<HTMLElement>('.cm-content')?.focus(),
      },
    ],
    [],
  );
  useCommands('filter', commands);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.key !== '/' || event.ctrlKey || target.closest('input, textarea, [contenteditable]') !== null) return;
      event.preventDefault();
      commands[0]?.run();
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [commands]);
  return (
    <div className="flex shrink-0 items-center gap-2 border-b border-line bg-label px-4 py-1">
      <span className="kin-keyword font-mono text-[12.5px]">where</span>
      <div
        ref={box}
        className="min-w-0 flex-1"
        onKeyDownCapture={(event) => {
          // An open list of completions takes Enter for itself.
          if (event.key !== 'Enter' || box.current?.querySelector('.cm-tooltip-autocomplete') !== null) return;
          event.preventDefault();
          onFilter(latest.current.trim());
        }}
      >
        <Editor
          text={written}
          label="Filter"
          example={exampleFor(entity)}
          single
          numbers={false}
          colours={colours}
          findings={marked}
          onChange={setWritten}
          complete={(text, offset) =>
            askDesign('complete filter', { text: tree, entity: entity.name, part: 'where', written: text, offset })
          }
        />
      </div>
      {written !== where && (
        <button type="button" className="text-small text-selected hover:underline" onClick={() => onFilter(written.trim())}>
          Apply ↵
        </button>
      )}
      {where !== '' && (
        <button type="button" aria-label="Empty the filter" className="text-ink-2 hover:text-ink" onClick={() => onFilter('')}>
          <X size={15} />
        </button>
      )}
    </div>
  );
}
