import { rowText } from '../core/edits/index.js';
import { type Expression, entityOf, type Model, queryOf, type Wall } from '../core/model/index.js';
import type { Span } from '../core/notation/index.js';
import { planQuery, TITLE } from '../core/plan/index.js';
import type { Wire } from '../core/values/index.js';
import { askedOfActor } from '../core/walls/index.js';
import { keyIn, kindIn } from '../core/write/index.js';
import { type LookedAt, preparedFor } from './looked-at.js';

/** Somebody of one kind that the walls tell from others: nobody, or a row that was found. */
export interface ActorFound {
  /** As a text names them. */
  readonly as: string;
  readonly shown: string;
  /** What makes them another kind, in the words of the text. */
  readonly kind: string;
  /** How many rows are of this kind; null for nobody. */
  readonly rows: number | null;
}

/** Conditions of walls by which kinds of actors are told apart; of more, each is looked at by itself. */
const MOST_TOGETHER = 4;

/** Nobody, and for each kind of actor that the walls tell apart one that there is; none where there are no walls. */
export async function actorsFound(
  lookedAt: LookedAt,
  options: { readonly signal?: AbortSignal } = {},
): Promise<readonly ActorFound[]> {
  const { model, text } = lookedAt.design;
  const walls = Array.from(model.walls.values());
  if (walls.length === 0) return [];
  const found: ActorFound[] = [{ as: 'nobody', shown: 'nobody', kind: 'has not said who', rows: null }];
  for (const { conditions, kind } of kindsOf(model, walls, text)) {
    const first = await firstOf(lookedAt, model.actor ?? '', conditions, options);
    if (first !== null) found.push({ ...first, kind });
  }
  return found;
}

/** A kind of actor: what is true of its rows. */
interface ActorKind {
  readonly conditions: readonly Expression[];
  readonly kind: string;
}

/** The kinds of actors that walls may tell apart: by what frees from each, and by values that are asked for and missing. */
function kindsOf(model: Model, walls: readonly Wall[], text: string): readonly ActorKind[] {
  if (model.actor === null) return [];
  const words = ({ start, end }: Span) => text.slice(start, end).replace(/\s+/g, ' ');
  const unless = new Map(walls.flatMap((wall) => wall.unless.map((one) => [words(one.span), one] as const)));
  const values = new Map<string, Expression>();
  for (const value of askedOfActor(model, []).values) if (value.name !== 'me') values.set(value.name, value.expression);
  const whole = Array.from(values.values(), (operand) => isNull(operand, true));
  const freeing = Array.from(unless);
  const together = freeing.length <= MOST_TOGETHER;
  const combinations = together ? 2 ** freeing.length : freeing.length + 1;
  const kinds: ActorKind[] = [];
  for (let at = 0; at < combinations; at++) {
    const holds = (index: number) => (together ? (at & (1 << index)) !== 0 : at === index + 1);
    const told = freeing.flatMap(([said], index) => (holds(index) ? [said] : []));
    kinds.push({
      conditions: [...whole, ...freeing.map(([, condition], index) => truth(condition, holds(index)))],
      kind: told.length === 0 ? `a row of ${model.actor}` : `a row of ${model.actor} of whom ${told.join(' and ')} is true`,
    });
  }
  for (const [name, operand] of values)
    kinds.push({
      conditions: [isNull(operand, false)],
      kind: `a row of ${model.actor} whose ${name.replace(/^me\./, '')} is null`,
    });
  return kinds;
}

/** That a condition is true, or that it is not, be it false or unknown. */
function truth(condition: Expression, holds: boolean): Expression {
  if (holds) return condition;
  const { span } = condition;
  const type = { kind: 'boolean' } as const;
  const value = (one: boolean): Expression => ({ kind: 'value', value: one, type, span });
  const known: Expression = {
    kind: 'case',
    branches: [{ when: condition, then: value(true) }],
    otherwise: value(false),
    type,
    span,
  };
  return { kind: 'binary', operator: '=', left: known, right: value(false), type, span };
}

function isNull(operand: Expression, negated: boolean): Expression {
  return { kind: 'is null', operand, negated, type: { kind: 'boolean' }, span: operand.span };
}

/** The first row of an entity for which conditions hold, and how many there are; null where there is none. */
async function firstOf(
  lookedAt: LookedAt,
  entity: string,
  where: readonly Expression[],
  { signal }: { readonly signal?: AbortSignal },
): Promise<{ readonly as: string; readonly shown: string; readonly rows: number } | null> {
  const { design, engine } = lookedAt;
  const { model } = design;
  const call = signal === undefined ? {} : { signal };
  const read = async (cardinality: 'many' | 'count'): Promise<readonly Readonly<Record<string, Wire>>[]> => {
    const limit: Expression = { kind: 'value', value: 1, type: { kind: 'integer' }, span: NOWHERE };
    const query = queryOf(entity, { where, ...(cardinality === 'count' ? { cardinality } : { limit }) });
    const ready = preparedFor({ ...lookedAt, actor: 'system' }, planQuery(model, query, { titled: true }));
    if (!ready.ok) return [];
    const answer = await engine.run('load', { prepared: ready.prepared, rowLimit: 1, explained: 'not' }, call);
    return answer.ok ? (JSON.parse(answer.value.text) as readonly Readonly<Record<string, Wire>>[]) : [];
  };
  const [row] = await read('many');
  if (row === undefined) return null;
  const [counted] = await read('count');
  const kind = kindIn(entity, row);
  const key = keyIn(model, kind, row);
  const as = rowText({ entity, keyType: entityOf(model, entity).key.type, key: String(key) });
  return { as, shown: String(row[TITLE] ?? as), rows: Number(counted?.count ?? 0) };
}

const NOWHERE = { start: 0, end: 0 };
