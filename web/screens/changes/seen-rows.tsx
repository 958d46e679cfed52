import type { ToldQuestion } from '../../../contract/index.js';

/** Some of the rows that a question is about, as they are. Of those that are alike each can be kept, which says that the others go. */
export function SeenRows({ look, rows: all, onSay }: Pick<ToldQuestion, 'look' | 'rows'> & { onSay(line: string): void }) {
  const seen = look.reduce((sum, { length }) => sum + length, 0);
  const columns = look[0]?.[0]?.values.map(({ column }) => column) ?? [];
  const canKeep = look.some((rows) => rows.some(({ keep }) => keep !== null));
  return (
    <div className="mt-2 max-h-64 overflow-auto border border-line-2 bg-sheet">
      <table aria-label="Rows that it is about" className="w-full font-mono text-small">
        <thead className="sticky top-0 bg-sheet">
          <tr>
            {columns.map((column) => (
              <th key={column} scope="col" className="px-2 py-0.5 text-left font-normal text-ink-2">
                {column}
              </th>
            ))}
            {canKeep && (
              <th scope="col">
                <span className="sr-only">Which stays</span>
              </th>
            )}
          </tr>
        </thead>
        {look.map((rows) => (
          <tbody key={rows[0]?.keep ?? 'rows'} className="border-t border-line-2">
            {rows.map(({ values, keep }, at) => (
              <tr key={keep ?? at}>
                {values.map(({ column, shown }) => (
                  <td key={column} className="max-w-60 truncate px-2 py-0.5" title={shown ?? 'no value'}>
                    {shown ?? <span className="text-ink-3">—</span>}
                  </td>
                ))}
                {canKeep && (
                  <td className="px-2 text-right">
                    {keep !== null && (
                      <button
                        type="button"
                        className="font-sans text-selected whitespace-nowrap underline underline-offset-2"
                        aria-label={`Keep ${values.map(({ shown }) => shown ?? 'nothing').join(', ')}`}
                        title={keep}
                        onClick={() => onSay(keep)}
                      >
                        Keep this one
                      </button>
                    )}
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        ))}
      </table>
      {seen < all && (
        <p className="border-t border-line-2 px-2 py-0.5 text-small text-ink-2">
          {`The first ${seen.toLocaleString('en')} of ${all.toLocaleString('en')} rows.`}
          {canKeep && ' The last of those that are alike may not all stand here: an order says it for the others.'}
        </p>
      )}
    </div>
  );
}
