import { useEffect, useMemo, useRef } from 'react';
import { useCommands } from '../../app/commands.js';

/** Offers to run and to stop, and runs at once where the address says so. */
export function useRunCommands(start: () => void, stop: () => void, atOnce: boolean): void {
  const latest = useRef({ start, stop });
  latest.current = { start, stop };
  useEffect(() => {
    if (atOnce) latest.current.start();
  }, [atOnce]);
  const commands = useMemo(
    () => [
      {
        id: 'run',
        title: 'Run the query',
        group: 'Run' as const,
        words: 'execute try go',
        keys: 'Ctrl ↵',
        run: () => latest.current.start(),
      },
      {
        id: 'stop',
        title: 'Stop what runs',
        group: 'Run' as const,
        words: 'cancel abort kill',
        run: () => latest.current.stop(),
      },
    ],
    [],
  );
  useCommands('try', commands);
}

/** Offers what else can be asked of the database, and of an application's log. */
export function useMoreCommands(readLog: () => void, writeSql: () => void, writeCommands: () => void): void {
  const latest = useRef({ readLog, writeSql, writeCommands });
  latest.current = { readLog, writeSql, writeCommands };
  const commands = useMemo(
    () => [
      {
        id: 'commands',
        title: 'Rehearse commands',
        group: 'Run' as const,
        words: 'create insert update delete link seed write rows dry run',
        run: () => latest.current.writeCommands(),
      },
      {
        id: 'plain-sql',
        title: 'Run plain SQL, read-only',
        group: 'Run' as const,
        words: 'select statement raw console',
        run: () => latest.current.writeSql(),
      },
      {
        id: 'read-log',
        title: 'Read a statement log',
        group: 'Run' as const,
        words: 'slow query log n+1 application',
        run: () => latest.current.readLog(),
      },
    ],
    [],
  );
  useCommands('try more', commands);
}
