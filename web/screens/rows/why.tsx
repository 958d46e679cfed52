import { useState } from 'react';
import type { Why as Told } from '../../../contract/index.js';
import { type RowName, rowText } from '../../../core/edits/index.js';
import { failureMessage, useWhyQuery } from '../../app/api.js';
import { useAppSelector } from '../../app/store.js';

interface WhyProps {
  readonly tree: string;
  /** Null where no text can name it. */
  readonly row: RowName | null;
  /** It was not found by whoever is at work. */
  readonly missing?: boolean;
}

/** Why whoever is at work reaches a row, or does not; nothing where that is the system, which reaches all. */
export function Why({ tree, row, missing = false }: WhyProps) {
  const as = useAppSelector((state) => state.actor.as);
  const [open, setOpen] = useState(false);
  if (as === '' || row === null) return null;
  return (
    <section aria-label={`Why, as ${as}`} className="mt-3">
      <button
        type="button"
        aria-expanded={open}
        className="text-small text-selected hover:underline"
        onClick={() => setOpen(!open)}
      >
        {missing ? `Is it hidden from ${as}?` : `Why ${as} sees this row, and may change it or not`}
      </button>
      {open && <WhyTold tree={tree} row={rowText(row)} as={as} />}
    </section>
  );
}

/** Why somebody reaches a row, or does not: each line of each wall on it, with its values. */
export function WhyTold({ tree, row, as }: { readonly tree: string; readonly row: string; readonly as: string }) {
  const { data, error } = useWhyQuery({ tree, ask: { row, as } });
  if (error !== undefined) return <p className="mt-2 text-harm">{failureMessage(error)}</p>;
  if (data === undefined) return <p className="mt-2 text-ink-2">Looking at each wall…</p>;
  if (!data.ok) return <p className="mt-2 text-harm">{data.problem}</p>;
  if (!data.there) return <p className="mt-2 text-ink-2">There is no such row, for nobody.</p>;
  return (
    <div className="mt-2 border border-line bg-label px-4 py-2">
      <p className="font-semibold">{verdict(data)}</p>
      {data.walls.length === 0 && <p className="mt-1 text-ink-2">No wall stands on it.</p>}
      {data.walls.map((wall) => (
        <Wall key={wall.name} wall={wall} />
      ))}
    </div>
  );
}

type Held = Extract<Told, { ok: true }>;

function verdict({ seen, changed }: Held): string {
  if (!seen) return '✕ It is hidden.';
  return changed ? '✓ It is seen, and may be changed.' : '▲ It is seen, and may not be changed.';
}

function Wall({ wall: { name, reads, writes, free, unless, lines } }: { readonly wall: Held['walls'][number] }) {
  const on = reads && writes ? '' : reads ? ' on read' : ' on write';
  return (
    <div className="mt-2 border-t border-line pt-2">
      <h4 className="font-mono text-small font-bold">
        {name}
        <span className="font-normal text-ink-2">{on}</span>
      </h4>
      {free && <p className="text-small text-fine">free of it, by “unless {unless.join(', or ')}”</p>}
      <ul>
        {lines.map(({ text, value, parts }) => (
          <li key={text} className="mt-1">
            <p className="font-mono text-small">
              <span aria-hidden className={value === true ? 'text-fine' : free ? 'text-ink-3' : 'text-harm'}>
                {value === true ? '✓' : '✕'}{' '}
              </span>
              {text}
              <span className="ml-2 text-ink-2">{value === null ? 'unknown, which lets nothing through' : String(value)}</span>
            </p>
            <dl className="ml-5 grid grid-cols-[auto_minmax(0,1fr)] gap-x-3 font-mono text-small text-ink-2">
              {parts.map((part) => (
                <div key={part.text} className="contents">
                  <dt>{part.text}</dt>
                  <dd className="truncate">{part.value === null ? 'null' : JSON.stringify(part.value)}</dd>
                </div>
              ))}
            </dl>
          </li>
        ))}
      </ul>
    </div>
  );
}
