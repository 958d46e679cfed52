import { X } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { parseQuery } from '../../../core/notation/index.js';
import type { EntityView } from '../../../core/view-models/index.js';
import { useCommands } from '../../app/commands.js';
import { askDesign } from '../../app/design-client.js';
import { useAppSelector } from '../../app/store.js';
import { Editor } from '../../parts/editor.js';

const NONE: readonly never[] = [];

/** A condition of the notation, completed while it is typed; Enter applies it. */
export function Filter({
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
