import type { Design } from '../core/design/index.js';
import { inLines } from '../core/notation/index.js';
import { type ReadsChecked, type RunRequest, savedAsText } from '../services/index.js';

/** A query with a line that says what its page reads. */
export function withReads(design: Design, wanted: RunRequest['query'], paths: string): RunRequest['query'] {
  const line = `reads ${paths}`;
  if (wanted.kind === 'text') return { ...wanted, text: `${inLines(wanted.text)}\n${line}` };
  const saved = savedAsText(design, wanted.name);
  return saved === null ? wanted : { kind: 'text', text: `${saved.lines}\n${line}`, parameters: saved.parameters };
}

/** `run --reads`: one sentence, and below it each path with what it costs; or the same as JSON. */
export function printReads(checked: ReadsChecked, json: boolean): void {
  if (json) {
    process.stdout.write(`${JSON.stringify(checked, null, 2)}\n`);
    return;
  }
  const lines = [
    checked.sentence,
    '',
    ...checked.unloaded.map(
      ({ path, statements }) => `asked once for each row: ${path}, ${statements.toLocaleString('en')} statements`,
    ),
    ...checked.lines.map((line) => `add: ${line}`),
    ...checked.unread.map(
      ({ path, rows, bytes }) =>
        `loaded and never read: ${path}, ${rows.toLocaleString('en')} rows, ${bytes.toLocaleString('en')} bytes`,
    ),
    ...checked.wide.map(({ path, fields }) => `a few fields would do: load ${path} (${fields.join(', ')})`),
  ];
  process.stdout.write(`${lines.join('\n').trimEnd()}\n`);
}
