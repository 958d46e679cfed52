import { choicesOf } from '../core/browse/index.js';
import { entityOf } from '../core/model/index.js';
import type { Choices } from '../core/runs/index.js';
import type { CallOptions } from '../engines/index.js';
import { type LookedAt, preparedFor } from './looked-at.js';

const MOST_CHOICES = 200;
const NONE: Choices = { rows: [], more: false };

/**
 * The rows of an entity to choose from, in its order; `more` where there are too many to list.
 *
 * @param sought what each has in its title, or is its key; empty for all rows
 */
export async function rowChoices(lookedAt: LookedAt, name: string, sought = '', options?: CallOptions): Promise<Choices> {
  const { model } = lookedAt.design;
  const ready = preparedFor(lookedAt, choicesOf(model, name, MOST_CHOICES + 1, sought));
  if (!ready.ok) return NONE;
  const input = { prepared: ready.prepared, keyName: entityOf(model, name).key.name, most: MOST_CHOICES };
  const read = await lookedAt.engine.run('choices', input, options);
  return read.ok ? read.value : NONE;
}
