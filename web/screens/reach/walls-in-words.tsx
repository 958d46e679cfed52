import { Link } from 'react-router';
import type { Reach } from '../../../contract/index.js';

interface WallsInWordsProps {
  readonly tree: string;
  readonly reach: Extract<Reach, { ok: true }>;
}

/** The walls as sentences; what sees over them; and what leads to whoever is at work and has none. */
export function WallsInWords({ tree, reach: { walls, lifts, unwalled } }: WallsInWordsProps) {
  return (
    <div className="space-y-6">
      <section aria-label="The walls in words">
        <h3 className="font-serif text-title font-semibold">The walls</h3>
        <ul className="mt-1 space-y-3">
          {walls.map(({ name, sentences, note }) => (
            <li key={name} className="border border-line bg-label px-4 py-2">
              <h4 className="font-mono text-small font-bold">{name}</h4>
              {note !== null && <p className="font-serif text-ink-2 italic">{note}</p>}
              <ul className="mt-1 list-disc space-y-0.5 pl-4">
                {sentences.map((sentence) => (
                  <li key={sentence}>{sentence}</li>
                ))}
              </ul>
            </li>
          ))}
        </ul>
      </section>
      <section aria-label="What sees over a wall">
        <h3 className="font-serif text-title font-semibold">Seen over</h3>
        {lifts.length === 0 ? (
          <p className="mt-1 text-ink-2">No query sees over a wall.</p>
        ) : (
          <ul className="mt-1 space-y-0.5">
            {lifts.map(({ query, walls: over }) => (
              <li key={query}>
                <Link to={`/tree/${tree}/try?query=${encodeURIComponent(query)}`} className="text-selected hover:underline">
                  {query}
                </Link>{' '}
                <span className="text-ink-2">sees over {over.join(' and ')}</span>
              </li>
            ))}
          </ul>
        )}
      </section>
      {unwalled.length > 0 && (
        <section aria-label="What leads to whoever is at work, and has no wall">
          <h3 className="font-serif text-title font-semibold">Without a wall</h3>
          <p className="mt-1 text-ink-2">They lead to whoever is at work, and everybody sees all of their rows. Is that meant?</p>
          <ul className="mt-1 space-y-0.5">
            {unwalled.map(({ entity, path }) => (
              <li key={entity}>
                <span className="font-serif font-semibold">{entity}</span>{' '}
                <span className="font-mono text-small text-ink-2">{path.join('.')}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}
