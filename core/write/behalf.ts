import { type ActorName, expressionsOfCommand, type NamedCommand } from '../model/index.js';
import { type Actor, SYSTEM } from '../walls/index.js';
import type { Doing } from './doing.js';
import { keepInReach } from './reach.js';
import type { CommandWork } from './steps.js';
import type { CarriedLine } from './told.js';

/**
 * On whose behalf each of some commands is done. Whoever that is is looked up once, before the first command of theirs: what they
 * write of themselves gives them no other walls.
 */
export class Behalf {
  private readonly actors = new Map<string, Actor>();
  private readonly names: readonly ActorName[];
  /** The same as texts, since one name may come as several values. */
  private readonly places: readonly string[];

  constructor(
    private readonly doing: Doing,
    private readonly commands: readonly NamedCommand[],
    otherwise: ActorName,
  ) {
    this.names = commands.map(({ as }) => as ?? otherwise);
    this.places = this.names.map((name) => JSON.stringify(name));
  }

  /** Whether the system does all of them. */
  get isSystem(): boolean {
    return this.names.every(({ kind }) => kind === 'system');
  }

  /** Has what comes next done on behalf of whom a command is for. */
  *takeUp(line: number): CommandWork<void> {
    const name = this.names[line];
    if (name === undefined) return;
    const place = this.places[line] ?? '';
    const known = this.actors.get(place);
    if (known === undefined) {
      // Nobody learns by what they are refused for later what they were not to see in between.
      yield* keepInReach(this.doing);
      const own = this.commands.filter((_, at) => this.places[at] === place);
      yield* this.doing.workAs(
        name,
        own.flatMap(({ command }) => expressionsOfCommand(command)),
      );
      this.actors.set(place, this.doing.actor);
    } else this.doing.actor = known;
  }

  /** What came of commands, by those on whose behalf they were done. */
  byActor(lines: readonly CarriedLine[]): ReadonlyMap<Actor, readonly CarriedLine[]> {
    const groups = new Map<Actor, CarriedLine[]>();
    for (const [at, line] of lines.entries()) {
      const actor = this.actors.get(this.places[at] ?? '') ?? SYSTEM;
      groups.set(actor, [...(groups.get(actor) ?? []), line]);
    }
    return groups;
  }
}
