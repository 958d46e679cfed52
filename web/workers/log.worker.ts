import { readDesign } from '../../core/design/index.js';
import { LogLines, LogReading, type LogReport } from '../../core/log/index.js';
import type { DialectName } from '../../core/notation/index.js';

/** A log to be read: a file, or what was pasted, held against a text. */
export interface LogAsk {
  readonly text: string;
  readonly dialect: DialectName | null;
  readonly log: Blob;
}

export type LogTold =
  | { readonly kind: 'progress'; readonly bytes: number }
  | { readonly kind: 'report'; readonly report: LogReport }
  | { readonly kind: 'failed'; readonly message: string };

const tell = (told: LogTold) => self.postMessage(told);

self.onmessage = ({ data }: MessageEvent<LogAsk>) => {
  read(data).catch((error: unknown) => tell({ kind: 'failed', message: error instanceof Error ? error.message : String(error) }));
};

/** Reads a log piece by piece, so that it is never whole in memory. */
async function read({ text, dialect, log }: LogAsk): Promise<void> {
  const lines = new LogLines();
  const design = readDesign(text, dialect);
  const reading = new LogReading(design.dialect.doubleQuoted);
  const stream = log.stream().pipeThrough(new TextDecoderStream()).getReader();
  let rest = '';
  let bytes = 0;
  for (let piece = await stream.read(); !piece.done; piece = await stream.read()) {
    bytes += piece.value.length;
    const whole = (rest + piece.value).split(/\r?\n/);
    rest = whole.pop() ?? '';
    for (const line of whole) {
      const statement = lines.next(line);
      if (statement !== null) reading.take(statement);
    }
    tell({ kind: 'progress', bytes });
  }
  for (const statement of [lines.next(rest), lines.end()]) if (statement !== null) reading.take(statement);
  tell({ kind: 'report', report: reading.report(design) });
}
