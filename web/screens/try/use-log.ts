import { useCallback, useEffect, useRef, useState } from 'react';
import type { LogReport } from '../../../core/log/index.js';
import type { DialectName } from '../../../core/notation/index.js';
import type { LogAsk, LogTold } from '../../workers/log.worker.js';

export type LogState =
  | { readonly kind: 'none' }
  | { readonly kind: 'reading'; readonly share: number }
  | { readonly kind: 'read'; readonly report: LogReport }
  | { readonly kind: 'failed'; readonly message: string };

/** Reads a statement log in a worker of its own: it can be as long as it is, and be left. */
export function useLog(
  text: string,
  dialect: DialectName | null,
): { readonly state: LogState; read(log: Blob): void; stop(): void } {
  const [state, setState] = useState<LogState>({ kind: 'none' });
  const worker = useRef<Worker | null>(null);
  const stop = useCallback(() => {
    worker.current?.terminate();
    worker.current = null;
    setState({ kind: 'none' });
  }, []);
  useEffect(() => () => worker.current?.terminate(), []);
  return {
    state,
    stop,
    read: (log) => {
      worker.current?.terminate();
      const started = new Worker(new URL('../../workers/log.worker.ts', import.meta.url), { type: 'module' });
      worker.current = started;
      setState({ kind: 'reading', share: 0 });
      started.onmessage = ({ data }: MessageEvent<LogTold>) => {
        if (data.kind === 'progress')
          setState({ kind: 'reading', share: log.size === 0 ? 1 : Math.min(1, data.bytes / log.size) });
        else {
          setState(data.kind === 'report' ? { kind: 'read', report: data.report } : data);
          started.terminate();
        }
      };
      const ask: LogAsk = { text, dialect, log };
      started.postMessage(ask);
    },
  };
}
