import type { LinesTold, LookedAtFile } from '../../../../contract/index.js';
import { Select } from '../../../parts/input.js';

const LEFT_OUT = 'left out';
/** So many lines are shown before anything is put in. */
const SHOWN = 12;

const BECAME = {
  created: { sign: '+', title: 'A new row' },
  updated: { sign: '~', title: 'Changes a row that is there' },
  skipped: { sign: '=', title: 'Its row is there already, and stays as it is' },
  refused: { sign: '✕', title: 'It is refused' },
} as const;

/** The first lines of a file, what each of its columns is, and how the lines come out. */
export function ColumnsTable({
  found,
  uses,
  tried,
  onUse,
}: {
  readonly found: LookedAtFile;
  readonly uses: readonly string[];
  /** How the first lines came out; null while they are tried. */
  readonly tried: LinesTold | null;
  onUse(at: number, use: string): void;
}) {
  const came = new Map(tried?.ok === true ? tried.first.map(({ line, became }) => [line, became]) : []);
  const faults = faultsOf(tried);
  const taken = new Set(uses.filter((use) => use !== LEFT_OUT));
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region has to be reached by the keyboard
    <div tabIndex={0} className="overflow-x-auto border border-line bg-sheet outline-none" data-label="lines">
      <table aria-label="The first lines" className="min-w-full border-collapse font-mono text-small">
        <thead>
          <tr className="border-b border-line-2 text-left align-bottom">
            <th className="w-px px-2 py-1 text-right font-normal text-ink-3" scope="col">
              line
            </th>
            {found.columns.map((column, at) => (
              <th key={column} scope="col" className="max-w-64 px-2 py-1 font-normal">
                <span className="block truncate text-ink-2" title={column}>
                  {column}
                </span>
                <Select
                  code
                  aria-label={`${column} is`}
                  className={`mt-0.5 w-full max-w-56 ${uses[at] === LEFT_OUT ? 'text-ink-3' : ''}`}
                  value={uses[at] ?? LEFT_OUT}
                  onChange={(event) => onUse(at, event.target.value)}
                >
                  <option value={LEFT_OUT}>{LEFT_OUT}</option>
                  {found.uses.map((use) => (
                    <option key={use} value={use}>
                      {use}
                      {taken.has(use) && uses[at] !== use ? ' (said)' : ''}
                    </option>
                  ))}
                </Select>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {found.lines.slice(0, SHOWN).map(({ number, values, problem }) => {
            const became = came.get(number);
            const whole = faults.get(`${number} `);
            return (
              <tr key={number} className="border-b border-line last:border-0">
                <th
                  scope="row"
                  className={`px-2 py-0.5 text-right font-normal whitespace-nowrap ${became === 'refused' ? 'text-harm' : 'text-ink-3'}`}
                  title={whole ?? (became === undefined ? '' : BECAME[became].title)}
                >
                  {became !== undefined && <span className="mr-1.5">{BECAME[became].sign}</span>}
                  {number}
                </th>
                {found.columns.map((column, at) => (
                  <Cell
                    key={column}
                    value={values[at]}
                    problem={faults.get(`${number} ${column}`) ?? (at === 0 ? problem : null)}
                    isLeftOut={uses[at] === LEFT_OUT}
                  />
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

function Cell({
  value,
  problem,
  isLeftOut,
}: {
  readonly value: unknown;
  readonly problem: string | null;
  readonly isLeftOut: boolean;
}) {
  const text = value === null || value === undefined ? '' : typeof value === 'string' ? value : JSON.stringify(value);
  const look = problem !== null ? 'text-harm underline decoration-wavy underline-offset-2' : isLeftOut ? 'text-ink-3' : '';
  return (
    <td className={`max-w-64 truncate px-2 py-0.5 ${look}`} title={problem ?? text} aria-invalid={problem !== null}>
      {text === '' && problem !== null ? '–' : text.slice(0, 200)}
    </td>
  );
}

/** What is wrong, by the line and the column; with no column, of the line. */
function faultsOf(tried: LinesTold | null): ReadonlyMap<string, string> {
  if (tried?.ok !== true) return new Map();
  return new Map(tried.refusals.map(({ line, column, message }) => [`${line} ${column ?? ''}`, message]));
}
