import { entityOf, type Pin, type Wall } from '../model/index.js';
import type { Wire } from '../values/index.js';
import { SYSTEM } from '../walls/index.js';
import type { Cell } from './cell.js';
import { type Doing, refuse } from './doing.js';
import { cellOf, cellsOfRole, type Filling } from './fill.js';

/** A pin that stands for the rows of an entity, and the wall that it is of. */
interface StandingPin {
  readonly wall: Wall;
  readonly pin: Pin;
}

/**
 * Fills in what walls pin in a new row, and refuses another value. The system pins nothing: what is pinned has then to be given, as
 * nobody else says what it is.
 */
export function fillPins(doing: Doing, filling: Filling): void {
  for (const { wall, pin } of pinsOf(doing, filling.entity)) {
    const name = nameOf(pin);
    const place = `${filling.entity}.${name}`;
    const columns = cellsFor(doing, pin, null).map(({ column }) => column);
    const isGiven = columns.some((column) => filling.has(column));
    if (doing.actor === SYSTEM) {
      if (!isGiven)
        refuse(
          `${place} is required, and nothing fills it: wall ${wall.name} does so for whoever is at work, and the system is nobody. Give it behind “with”, or say on whose behalf the row is made, as in “as ${doing.model.actor ?? 'Player'}(3)”.`,
        );
      continue;
    }
    const value = doing.actor.pinned.get(pin) ?? null;
    if (value === null)
      refuse(
        `${place} is pinned by wall ${wall.name} to a value that whoever is at work has not got. Nobody else’s can be given.`,
        'wall',
      );
    if (isGiven) keepPinned(doing, { wall, pin }, filling.entity, filling.cells);
    else filling.fill(name, 'pin', value, cellsFor(doing, pin, value));
  }
}

/** Refuses to give a row another value than that which a wall pins. @param cells what is written into it, by column */
export function keepPins(doing: Doing, entity: string, cells: ReadonlyMap<string, Cell>): void {
  if (doing.actor === SYSTEM) return;
  for (const one of pinsOf(doing, entity)) keepPinned(doing, one, entity, cells);
}

function keepPinned(doing: Doing, { wall, pin }: StandingPin, entity: string, cells: ReadonlyMap<string, Cell>): void {
  if (doing.actor === SYSTEM) return;
  const wanted = cellsFor(doing, pin, doing.actor.pinned.get(pin) ?? null);
  const isOther = wanted.some(({ column, value }) => {
    const given = cells.get(column);
    return given !== undefined && JSON.stringify(given.value) !== JSON.stringify(value);
  });
  if (isOther)
    refuse(
      `${entity}.${nameOf(pin)} is pinned by wall ${wall.name}: whoever is at work gives it no other value. Leave it out.`,
      'wall',
    );
}

function pinsOf({ actor, model }: Doing, entity: string): readonly StandingPin[] {
  const walls = actor === SYSTEM ? Array.from(model.walls.values()) : actor.walls;
  return walls.flatMap((wall) => (wall.pins.get(entityOf(model, entity).name) ?? []).map((pin) => ({ wall, pin })));
}

function nameOf({ member }: Pin): string {
  return member.kind === 'field' ? member.field.name : member.role.name;
}

function cellsFor({ model }: Doing, { member, value: { type } }: Pin, value: Wire): readonly Cell[] {
  if (member.kind === 'field') return [cellOf(member.field, value)];
  const entity = type.kind === 'row' ? type.entity : member.role.target;
  return cellsOfRole(model, member.role, value === null ? null : { entity, key: value });
}
