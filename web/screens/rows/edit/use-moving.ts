import { useCallback, useState } from 'react';
import { type Entry, exchangeText, type Placed, type PlaceOf } from '../../../../core/edits/index.js';
import type { EntityView, FieldView, PositionView, RoleView } from '../../../../core/view-models/index.js';
import type { RowsQuestion } from '../place.js';
import type { Row, RowWindow } from '../use-window.js';
import { nameOf, typedText } from './entries.js';
import type { Write } from './use-write.js';

interface Moving {
  readonly entity: EntityView;
  readonly entities: readonly EntityView[];
  readonly asked: RowsQuestion;
  /** The role that was walked over; null where none was. */
  readonly over: RoleView | null;
  readonly data: RowWindow;
  readonly total: number;
  readonly writing: Write;
}

/** Moving rows among each other, where they have an order by a number of their own. */
export interface RowsMoved {
  /** Why the last row could not be moved; empty where it was. */
  readonly problem: string;
  /** Has a row change places with the one before it (-1) or behind it (1); whether it did. */
  move(row: number, by: -1 | 1): Promise<boolean>;
}

/** Null where the rows have no such order, or are seen in another. */
export function useMoving({ entity, entities, asked, over, data, total, writing }: Moving): RowsMoved | null {
  const [problem, setProblem] = useState('');
  const position = asked.orderBy !== '' ? null : asked.via === null ? entity.position : (over?.position ?? null);
  const { write } = writing;
  const move = useCallback(
    async (at: number, by: -1 | 1): Promise<boolean> => {
      const [row, other] = [data.row(at), data.row(at + by)];
      if (position === null || row === null || other === null) return false;
      const text = exchangeOf(position, { entity, entities, asked, over }, row, other, total);
      if ('problem' in text) setProblem(text.problem);
      const done = 'problem' in text ? null : await write(text.commands);
      if (done !== null) setProblem('');
      return done !== null;
    },
    [position, entity, entities, asked, over, data, total, write],
  );
  return position === null || (over?.path ?? false) ? null : { problem, move };
}

function exchangeOf(
  position: PositionView,
  { entity, entities, asked, over }: Pick<Moving, 'entity' | 'entities' | 'asked' | 'over'>,
  row: Row,
  other: Row,
  total: number,
): { readonly commands: string } | { readonly problem: string } {
  const fields = position.ofPair ? (over?.pivot?.fields ?? []) : [];
  const of = placeOf(position, { asked, over, entities });
  const [one, two] = [row, other].map((each) => placed(each, { position, entity, entities, over, fields }));
  if (of === null || one === undefined || two === undefined || one === null || two === null)
    return { problem: `A row has no ${position.field} yet. Give it one first.` };
  if (one.place === two.place) return { problem: `Both rows have the ${position.field} ${one.place}. Give one of them another.` };
  const free = position.unique ? Math.max(one.place, two.place, total) + 1 : null;
  return { commands: exchangeText(of, one, two, free) };
}

function placeOf(position: PositionView, { asked, over, entities }: Pick<Moving, 'asked' | 'over' | 'entities'>): PlaceOf | null {
  if (!position.ofPair) return { kind: 'row', field: position.field };
  const owner = asked.via === null ? null : nameOf(asked.via.entity, asked.via.key, entities);
  return owner === null || over === null ? null : { kind: 'pair', field: position.field, owner, role: over.name };
}

function placed(
  row: Row,
  {
    position,
    entity,
    entities,
    over,
    fields,
  }: Pick<Moving, 'entity' | 'entities' | 'over'> & { readonly position: PositionView; readonly fields: readonly FieldView[] },
): Placed | null {
  const name = nameOf(entity.name, row[entity.key], entities);
  const pair = over?.pivot === null || over === null ? null : (row[over.pivot.table] as Row | undefined);
  const place = position.ofPair ? pair?.[position.field] : row[position.field];
  if (name === null || typeof place !== 'number') return null;
  const entries = fields.flatMap((field): Entry[] => {
    const text = typedText(pair?.[field.name], field);
    if (field.entry === null || text === null) return [];
    return [{ name: field.name, entered: { kind: 'value', type: field.entry.type, text } }];
  });
  return { row: name, place, fields: entries };
}
