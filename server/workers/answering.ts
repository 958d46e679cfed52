import type { FromWorker, ToWorker, Work } from './messages.js';

/**
 * Answers pieces of work in a process of its own, by their names. It ends with whoever started it, and takes along what it
 * started itself: its group of processes is its own.
 */
export function answering(works: Readonly<Record<string, Work>>, closing: () => Promise<void> = () => Promise.resolve()): void {
  // What it makes is its owner’s alone to read.
  process.umask(0o077);
  const running = new Map<number, AbortController>();
  const send = (message: FromWorker) => process.send?.(message);

  const answer = async (id: number, name: string, argument: unknown): Promise<void> => {
    const stopping = new AbortController();
    running.set(id, stopping);
    send({ kind: 'at', id });
    try {
      const work = works[name];
      if (work === undefined) throw new Error(`there is no work called ${name}`);
      const value = await work(argument, { signal: stopping.signal, step: (what) => send({ kind: 'step', id, what }) });
      send({ kind: 'done', id, value });
    } catch (error) {
      const { message, stack = '' } = error instanceof Error ? error : new Error(String(error));
      send({ kind: 'failed', id, message, stack });
    } finally {
      running.delete(id);
    }
  };

  process.on('message', (message: ToWorker) => {
    switch (message.kind) {
      case 'ask':
        void answer(message.id, message.name, message.argument);
        break;
      case 'stop':
        running.get(message.id)?.abort();
        break;
      case 'are you there':
        send({ kind: 'there' });
        break;
    }
  });
  // A terminal sends this to whoever holds it; the server says when to end.
  process.on('SIGINT', () => undefined);
  process.on('disconnect', () => {
    const end = () => {
      try {
        process.kill(-process.pid, 'SIGKILL');
      } catch {
        process.exit(0);
      }
    };
    // What was made on a server is taken away, if that can be done soon.
    setTimeout(end, LONGEST_CLOSING);
    closing().then(end, end);
  });
  send({ kind: 'ready' });
}

const LONGEST_CLOSING = 10_000;
