import { grouped } from './grouped.js';

/** Parents by the number of their children; each step leads to its rows. */
export function HistogramBars({
  buckets,
  of,
  onOpen,
}: {
  readonly buckets: readonly { readonly least: number; readonly most: number; readonly parents: number }[];
  /** What is counted, in the plural, for those who hear it. */
  readonly of: string;
  onOpen?: ((least: number, most: number) => void) | undefined;
}) {
  const highest = Math.max(1, ...buckets.map(({ parents }) => parents));
  return (
    <ol aria-label={`${of}, by how many they know`} className="flex h-[74px] items-end gap-[3px]">
      {buckets.map(({ least, most, parents }) => {
        const range = least === most ? String(least) : `${least}–${most}`;
        const words = `${grouped(parents)} ${of} know ${range}`;
        const bar = (
          <>
            <span
              className={`block w-full ${least === 0 ? 'border border-to-many bg-transparent' : 'bg-to-many'}`}
              style={{ height: Math.max(parents === 0 ? 0 : 2, (parents / highest) * 52) }}
            />
            <span className="block pt-0.5 text-center text-small leading-4 whitespace-nowrap text-ink-2">{least}</span>
          </>
        );
        return (
          <li key={least} className="max-w-14 min-w-4 flex-1" title={words}>
            {onOpen === undefined ? (
              <span>
                <span className="sr-only">{words}</span>
                {bar}
              </span>
            ) : (
              <button
                type="button"
                aria-label={words}
                className="block w-full hover:opacity-75"
                onClick={() => onOpen(least, most)}
              >
                {bar}
              </button>
            )}
          </li>
        );
      })}
    </ol>
  );
}
