import type { DialectName } from '../../core/notation/index.js';
import type { bringAgain, merge } from '../../core/revisions/index.js';
import type { dialectOfScript } from '../../core/sql/index.js';
import { programFile } from '../../engines/index.js';
import type { bringIn, bringInScript, bringInScriptEmbedded, bringInServer, Step } from '../../services/index.js';
import { Worker } from './worker.js';

/** The computations over texts and catalogues, by their names. */
export interface TextWorks {
  readonly merge: typeof merge;
  readonly bringAgain: typeof bringAgain;
  readonly dialectOfScript: typeof dialectOfScript;
  /** What a text is opened with in a dialect, as JSON. */
  readonly opening: (text: string, dialect: DialectName | null) => string;
  readonly bringIn: typeof bringIn;
  readonly bringInScript: typeof bringInScript;
  readonly bringInScriptEmbedded: typeof bringInScriptEmbedded;
  readonly bringInServer: typeof bringInServer;
}

const MOST_MEMORY_MB = 2048;
/** A catalogue of thousands of tables takes some seconds to write the text of. */
const PATIENCE = 60_000;

type ArgumentsOf<Call> = Call extends (...given: infer All) => unknown
  ? All extends [...infer Rest, Step?]
    ? Rest
    : All
  : never;
type ResultOf<Call> = Call extends (...given: never[]) => infer Value ? Awaited<Value> : never;

/** Brings databases in, and texts together, in a process of its own. */
export class Texts {
  private readonly worker = new Worker({
    file: programFile('server/workers/text-work'),
    memoryMegabytes: MOST_MEMORY_MB,
    patience: PATIENCE,
  });

  /** Does one of the works. @throws {WorkLost} where it takes too long, or too much memory */
  async does<Name extends keyof TextWorks>(
    name: Name,
    given: ArgumentsOf<TextWorks[Name]>,
    step?: (what: string) => void,
  ): Promise<ResultOf<TextWorks[Name]>> {
    const options = step === undefined ? {} : { step: (what: unknown) => step(String(what)) };
    return (await this.worker.ask(name, given, options)) as ResultOf<TextWorks[Name]>;
  }

  close(): Promise<void> {
    return this.worker.close();
  }
}
