import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/react';
import { useDeferredValue, useEffect, useState } from 'react';
import { shownKey } from '../../core/values/index.js';
import { useRowsSoughtQuery } from './api.js';

/** A row that a person picked: of which entity, its key as an address has it, and what it is shown as. */
export interface PickedRow {
  readonly entity: string;
  readonly key: string;
  readonly shown: string;
}

interface RowPickerProps {
  readonly tree: string;
  /** What the field is called. */
  readonly label: string;
  /** The entities whose rows may be picked. */
  readonly entities: readonly string[];
  readonly value: PickedRow | null;
  /** Begins with the focus, and its list open. */
  readonly immediate?: boolean;
  readonly className?: string;
  /** All rows are there to be picked, whoever is at work. */
  readonly bySystem?: boolean;
  onPick(row: PickedRow | null): void;
}

const MOST_LISTED = 50;

/** Looks for a row by what it is shown as, or by its key, while one types; kinds and entities are told apart. */
export function RowPicker({
  tree,
  label,
  entities,
  value,
  immediate = false,
  className = '',
  bySystem = false,
  onPick,
}: RowPickerProps) {
  const [sought, setSought] = useState('');
  const asked = useDeferredValue(sought);
  const { data, isFetching } = useRowsSoughtQuery({ tree, entities, sought: asked, bySystem });
  const rows = data?.rows ?? [];
  const several = entities.length > 1;
  /** Enter was pressed before the rows of what was typed were there: the first of them is meant. */
  const [waiting, setWaiting] = useState(false);
  const settled = !isFetching && asked === sought;
  const [first] = rows;
  useEffect(() => {
    if (!waiting || !settled) return;
    setWaiting(false);
    if (first !== undefined) onPick(first);
  }, [waiting, settled, first, onPick]);
  return (
    <Combobox
      value={value}
      immediate
      by={(one, other) => one?.entity === other?.entity && one?.key === other?.key}
      onChange={onPick}
      onClose={() => !waiting && setSought('')}
    >
      {({ activeOption }) => (
        <>
          <ComboboxInput
            aria-label={label}
            autoFocus={immediate}
            onFocus={({ currentTarget }) => setTimeout(() => currentTarget.select())}
            autoComplete="off"
            className={`min-w-0 rounded-sm border border-line-2 bg-label px-2 py-0.5 text-ink placeholder:text-ink-3 ${className}`}
            placeholder={`look for a row of ${entities.join(' or ')}`}
            displayValue={(row: PickedRow | null) => row?.shown ?? ''}
            onChange={(event) => setSought(event.target.value)}
            onKeyDown={(event) => {
              // What is listed may still be of fewer letters.
              if (event.key !== 'Enter' || sought === '' || (settled && activeOption !== null)) return;
              event.preventDefault();
              setWaiting(true);
            }}
          />
          <ComboboxOptions
            anchor={{ to: 'bottom start', gap: 3 }}
            modal={false}
            className="z-50 max-h-72 min-w-72 overflow-auto border border-line-2 bg-label py-1 text-ink shadow-slip empty:invisible"
          >
            {rows.slice(0, MOST_LISTED).map((row) => (
              <ComboboxOption
                key={`${row.entity} ${row.key}`}
                value={row}
                className="flex cursor-pointer items-baseline gap-2 px-2.5 py-0.5 data-focus:bg-wash"
              >
                {several && <span className="text-polymorphic">{row.entity}</span>}
                <span className="truncate">{row.shown}</span>
                <span className="ml-auto pl-4 font-mono text-small text-ink-3">{shownKey(row.key)}</span>
              </ComboboxOption>
            ))}
            {rows.length === 0 && (
              <li className="px-2.5 py-0.5 text-ink-2 italic">
                {isFetching ? 'looking…' : 'No row has this in its title or key.'}
              </li>
            )}
            {(rows.length > MOST_LISTED || data?.more === true) && (
              <li className="px-2.5 py-0.5 text-small text-ink-2 italic">There are more: write on to narrow them.</li>
            )}
          </ComboboxOptions>
        </>
      )}
    </Combobox>
  );
}
