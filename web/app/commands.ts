import { useEffect, useSyncExternalStore } from 'react';

/** Something that can be done from the palette. */
export interface Command {
  readonly id: string;
  readonly title: string;
  /** What sort of thing it is, shown beside its title. */
  readonly group: 'Screen' | 'Entity' | 'Relation' | 'Query' | 'Rows' | 'Text' | 'Map' | 'Run' | 'Page';
  /** A few words beside the title. */
  readonly hint?: string;
  /** Other words of the trade that it is looked for by. */
  readonly words?: string;
  readonly keys?: string;
  run(): void;
}

const registered = new Map<string, readonly Command[]>();
const watchers = new Set<() => void>();
let offered: readonly Command[] = [];

function changed(): void {
  offered = Array.from(registered.values()).flat();
  for (const watcher of watchers) watcher();
}

/** All commands that the screen in view and the frame around it offer now. */
export function currentCommands(): readonly Command[] {
  return offered;
}

/** The same, kept up with what comes to be offered. */
export function useCurrentCommands(): readonly Command[] {
  return useSyncExternalStore(watch, currentCommands);
}

function watch(watcher: () => void): () => void {
  watchers.add(watcher);
  return () => void watchers.delete(watcher);
}

/** Does what a command of this id does, where it is offered now. */
export function runCommand(id: string): void {
  currentCommands()
    .find((command) => command.id === id)
    ?.run();
}

/** Offers commands for as long as the component is there. */
export function useCommands(owner: string, commands: readonly Command[]): void {
  useEffect(() => {
    registered.set(owner, commands);
    changed();
    return () => {
      if (registered.get(owner) === commands) registered.delete(owner);
      changed();
    };
  }, [owner, commands]);
}

/**
 * The commands that fit what was typed, the best first: each word has to begin a word of the title, or of the other
 * words that the command is known by.
 */
export function matching(commands: readonly Command[], typed: string): Command[] {
  const wanted = typed
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word !== '');
  if (wanted.length === 0) return [...commands];
  return commands
    .flatMap((command) => {
      const score = scoreOf(command, wanted);
      return score === null ? [] : [{ command, score }];
    })
    .sort((a, b) => b.score - a.score || a.command.title.length - b.command.title.length)
    .map(({ command }) => command);
}

function scoreOf({ title, words = '', group }: Command, wanted: readonly string[]): number | null {
  const lower = title.toLowerCase();
  let score = lower === wanted.join(' ') ? 100 : 0;
  for (const word of wanted) {
    if (lower.startsWith(word)) score += 12;
    else if (beginsWord(lower, word)) score += 8;
    else if (beginsWord(group.toLowerCase(), word)) score += 4;
    else if (beginsWord(words.toLowerCase(), word)) score += 3;
    else if (lower.includes(word)) score += 2;
    else return null;
  }
  return score;
}

function beginsWord(text: string, word: string): boolean {
  return text.split(/[^a-z0-9]+/).some((part) => part.startsWith(word));
}
