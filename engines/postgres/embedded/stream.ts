import { Duplex } from 'node:stream';
import type { PGlite } from '@electric-sql/pglite';

/** A stream that speaks PostgreSQL's protocol with an engine in this process, as a socket would with a server. */
export function streamTo(engine: PGlite): Duplex {
  const stream = new Duplex({
    read: () => undefined,
    write(chunk: Buffer, _encoding, done) {
      engine.execProtocolRaw(new Uint8Array(chunk), { syncToFs: true }).then(
        (answer) => {
          stream.push(Buffer.from(answer));
          done();
        },
        (error: unknown) => done(error instanceof Error ? error : new Error(String(error))),
      );
    },
  });
  // What the driver asks of a socket, and a stream within a process has no use for.
  const nothing = () => stream;
  return Object.assign(stream, {
    connect: () => {
      setImmediate(() => stream.emit('connect'));
      return stream;
    },
    setNoDelay: nothing,
    setKeepAlive: nothing,
    ref: nothing,
    unref: nothing,
  });
}
