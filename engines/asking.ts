import type { DialectName } from '../core/notation/index.js';
import type { Engine, Outcome } from './engine.js';
import type { Ask } from './protocol.js';

/** Puts one question to an engine, bounded in time. */
export type Call = <T>(ask: Ask) => Promise<Outcome<T>>;

/** The calls of an engine, each as one question. */
export function askingEngine(dialect: DialectName, call: Call): Omit<Engine, 'stop' | 'close'> {
  return {
    dialect,
    load: (request) => call({ kind: 'load', request }),
    fetch: (request) => call({ kind: 'fetch', request }),
    introspect: (schemas = null) => call({ kind: 'introspect', schemas }),
    make: (request) => call({ kind: 'make', request }),
    runScript: (path) => call({ kind: 'script', path }),
    execute: (statements) => call({ kind: 'execute', statements }),
    read: (sql, parameters) => call({ kind: 'read', sql, parameters }),
  };
}
