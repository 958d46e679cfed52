import { createHash, randomUUID } from 'node:crypto';
import { deleteGraph } from '../core/cascades/index.js';
import type { Design } from '../core/design/index.js';
import type { ActorName } from '../core/model/index.js';
import type { Finding, Span } from '../core/notation/index.js';
import type { Wire } from '../core/values/index.js';
import { type Carried, type CommandRefusal, keptTables } from '../core/write/index.js';
import type { Engine } from '../engines/index.js';
import { refusedFor } from './refused-for.js';

/** Commands, and the database that they are for. */
export interface DoRequest {
  /** The commands: a line each, or on one line with `;` between. */
  readonly text: string;
  readonly sampleKeys: Readonly<Record<string, Wire>>;
  /** The database was made here, so its constraints keep types and keys. */
  readonly madeHere: boolean;
  /** What now is, as a timestamp in wire form. */
  readonly now: string;
  /** What keys that are made up are derived from, where the same commands are to give the same ones; left out: any. */
  readonly seed?: string;
  /** Keeps how rows were, so that they can be put back: the schemas that are read for it; left out, nothing is kept. */
  readonly keeps?: { readonly schemas: readonly string[] | null };
  /** On whose behalf they are done, where no line says it; left out, the system’s. */
  readonly as?: ActorName;
  /** The schemas of the database that are the tree’s; left out or null, the one that is used anyway. */
  readonly schemas?: readonly string[] | null;
  /** Takes back whatever they do, once it has been told. */
  readonly rehearse: boolean;
  readonly signal?: AbortSignal;
}

const SYSTEM: ActorName = { kind: 'system' };

/** What came of commands; or why none of them was carried out: findings have places in their text, problems have none. */
export type DoOutcome =
  | {
      readonly ok: true;
      readonly carried: Carried;
      readonly findings: readonly Finding[];
      /** Where each command stands in the text. */
      readonly spans: readonly Span[];
    }
  | {
      readonly ok: false;
      readonly findings: readonly Finding[];
      readonly problems: readonly string[];
      readonly log: Carried['log'];
      readonly spans: readonly Span[];
      /** How many commands were come to: the last of them was refused. */
      readonly reached: number;
      /** Why the last was refused; null where none was carried out for another reason. */
      readonly refusal: ToldRefusal | null;
    };

/** Why a command was refused, also in words for a person. */
export interface ToldRefusal extends CommandRefusal {
  readonly words: string;
}

/** The words, behind the line that was refused where there are several. */
export function placedWords({ line, words }: ToldRefusal, spans: readonly Span[]): string {
  return spans.length > 1 ? `Line ${line + 1}: ${words}` : words;
}

/** Carries out commands, all or none of them, and tells what became of each row and what filled each value. */
export async function doCommands(design: Design, engine: Engine, request: DoRequest): Promise<DoOutcome> {
  const { commands, findings } = design.commandsOf(request.text);
  if (commands === null) return { ok: false, findings, problems: [], log: [], spans: [], reached: 0, refusal: null };
  const spans = commands.map(({ span }) => span);
  const { sampleKeys, madeHere, now, rehearse, seed, signal, as = SYSTEM } = request;
  const isWalled = commands.some((command) => (command.as ?? as).kind !== 'system');
  const needsSchema = request.keeps !== undefined || (isWalled && commands.some(({ command }) => command.kind === 'delete'));
  const schemas = request.keeps === undefined ? request.schemas : request.keeps.schemas;
  const looked = needsSchema ? await engine.introspect(schemas) : null;
  if (looked?.ok === false)
    return { ok: false, findings, problems: [looked.problem.message], log: [], spans, reached: 0, refusal: null };
  const asked = {
    model: design.model,
    commands,
    inputs: { now, sampleKeys, madeHere, uuidStem: uuidStem(seed), keep: !rehearse },
    as,
    ...(looked === null || request.keeps === undefined
      ? {}
      : { keeps: keptTables(design.model, design.dialect, looked.value.schema) }),
    ...(looked === null || !isWalled ? {} : { graph: deleteGraph(design.model, design.dialect, looked.value.schema) }),
  };
  const done = await engine.carryOut(asked, { patient: true, ...(signal === undefined ? {} : { signal }) });
  if (!done.ok) return { ok: false, findings, problems: [done.problem.message], log: [], spans, reached: 0, refusal: null };
  const { refusal, log } = done.value;
  if (refusal === null) return { ok: true, carried: done.value, findings, spans };
  const command = commands[refusal.line];
  const words = await refusedFor(design, engine, {
    ...request,
    refusal,
    command: command?.command ?? null,
    as: command?.as ?? as,
  });
  const told = { ...refusal, words };
  return {
    ok: false,
    findings,
    problems: [`${placedWords(told, spans)} Nothing was written.`],
    log,
    spans,
    reached: refusal.line + 1,
    refusal: told,
  };
}

/** What the keys of new rows begin with: the same for the same seed, any where there is none. */
export function uuidStem(seed: string = randomUUID()): string {
  return createHash('sha256').update(seed).digest('hex').slice(0, 20);
}
