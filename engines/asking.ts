import type { DialectName } from '../core/notation/index.js';
import type { CallOptions, Engine, Outcome } from './engine.js';
import type { Ask } from './protocol.js';

/** Puts one question to an engine, bounded in time. */
export type Call = <T>(ask: Ask, options?: CallOptions) => Promise<Outcome<T>>;

/** The calls of an engine, each as one question. */
export function askingEngine(dialect: DialectName, call: Call): Omit<Engine, 'close'> {
  return {
    dialect,
    load: (request, options) => call({ kind: 'load', request }, options),
    fetch: (request, options) => call({ kind: 'fetch', request }, options),
    introspect: (schemas = null) => call({ kind: 'introspect', schemas }),
    make: (request, options) => call({ kind: 'make', request }, options),
    runScript: (path, options) => call({ kind: 'script', path }, options),
    execute: (statements) => call({ kind: 'execute', statements }),
    read: (sql, parameters, options) => call({ kind: 'read', sql, parameters }, options),
  };
}
