import type { Dialect } from '../core/dialects/index.js';
import type { StatementResult } from '../core/load/index.js';
import { computationOf, paceOf, type RunInput, type RunName, type RunResult } from '../core/runs/index.js';
import { readingStatement } from '../core/sql/index.js';
import { driveLater } from './driver.js';
import type { CallOptions, Engine, Outcome, Problem } from './engine.js';
import type { Ask } from './protocol.js';
import { type ReadRaw, readableBy } from './raw-rows.js';

/** Puts one question to an engine, bounded in time. */
export type Call = <T>(ask: Ask, options?: CallOptions) => Promise<Outcome<T>>;

/** An engine, each of whose calls is one question. */
export function askingEngine(dialect: Dialect, call: Call, close: () => Promise<void>): Engine {
  const read: ReadRaw = (sql, parameters, options) => call({ kind: 'read', sql, parameters, said: saidIn(options) }, options);
  const engine: Engine = {
    dialect: dialect.name,
    run: (name, input, options) =>
      paceOf(name) === 'whole'
        ? call({ kind: 'run', sent: { name, input }, said: saidIn(options) }, options)
        : byStatement(dialect, call, name, input, options),
    introspect: (schemas = null) => call({ kind: 'introspect', schemas }),
    make: (request, options) => call({ kind: 'make', request }, options),
    carryOut: (request, options) => call({ kind: 'commands', request }, options),
    putLinesIn: (request, options) => call({ kind: 'lines in', request }, { ...options, patient: true }),
    takeBack: (request, options) => call({ kind: 'take back', request }, options),
    apply: (request, options) => call({ kind: 'apply', request }, { ...options, patient: true }),
    runScript: (path, options) => call({ kind: 'script', path }, options),
    ask: (sql, options) => read(sql, {}, { ...options, patient: true }),
    execute: (statements) => call({ kind: 'execute', statements }),
    readPlain: (sql, most, options) => {
      const statement = readingStatement(sql, dialect.name);
      if ('fault' in statement) return Promise.resolve({ ok: false, problem: { code: 'refused', message: statement.fault } });
      return call({ kind: 'plain', statement, most }, { ...options, patient: true });
    },
    answers: () => call({ kind: 'answers' }),
    wasMadeHere: async () => {
      const told = await call<boolean>({ kind: 'made here' });
      return told.ok && told.value;
    },
    close,
  };
  return readableBy(engine, read);
}

function saidIn(options: CallOptions = {}): readonly string[] {
  return options.said ?? [];
}

/** A statement that an engine gave nothing for. */
class Refused extends Error {
  constructor(readonly problem: Problem) {
    super(problem.message);
  }
}

/** Carries out a run here, each of its statements as a question of its own, so that others are answered between them. */
async function byStatement<Name extends RunName>(
  dialect: Dialect,
  call: Call,
  name: Name,
  input: RunInput<Name>,
  options: CallOptions = {},
): Promise<Outcome<RunResult<Name>>> {
  try {
    const value = await driveLater(computationOf(dialect, name, input), async (statement) => {
      const answered = await call<StatementResult>({ kind: 'statement', statement, said: saidIn(options) }, options);
      if (answered.ok) return answered.value;
      const stopped = options.signal?.aborted === true;
      if (stopped || !statement.mayFail) throw new Refused(answered.problem);
      return { rows: [], milliseconds: 0, steps: [], refused: answered.problem };
    });
    return { ok: true, value };
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    return { ok: false, problem: error.problem };
  }
}
