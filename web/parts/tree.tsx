import { type KeyboardEvent, type ReactNode, useRef } from 'react';

/** A tree of items, of which one is reached by Tab and the others by arrows, as the tree pattern of ARIA has it. */
export function Tree({ label, className = '', children }: Labelled & { readonly className?: string }) {
  const tree = useRef<HTMLUListElement>(null);
  const items = () => Array.from(tree.current?.querySelectorAll<HTMLElement>('[role=treeitem]') ?? []);
  const onKeyDown = (event: KeyboardEvent) => {
    const all = items();
    const at = event.target instanceof HTMLElement ? all.indexOf(event.target) : -1;
    const next = at < 0 ? undefined : all[movedBy(event.key, at, all)];
    if (next === undefined) return;
    event.preventDefault();
    next.focus();
  };
  return (
    <ul
      ref={tree}
      // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: the role makes the list a tree, and no element does
      role="tree"
      aria-label={label}
      className={className}
      onKeyDown={onKeyDown}
      // The item that had the focus last is where Tab comes back to; drawing items anew does not change that.
      onFocus={({ target }) => {
        if (target.role !== 'treeitem') return;
        for (const item of items()) item.tabIndex = item === target ? 0 : -1;
      }}
    >
      {children}
    </ul>
  );
}

interface Labelled {
  readonly label: string;
  readonly children: ReactNode;
}

/** The place of the item that a key leads to, among all that are in view; -1 where it leads to none. */
function movedBy(key: string, at: number, items: readonly HTMLElement[]): number {
  switch (key) {
    case 'ArrowDown':
    case 'ArrowRight':
      return Math.min(items.length - 1, at + 1);
    case 'ArrowUp':
      return Math.max(0, at - 1);
    case 'ArrowLeft': {
      const above = items[at]?.parentElement?.closest<HTMLElement>('[role=treeitem]');
      return above == null ? -1 : items.indexOf(above);
    }
    case 'Home':
      return 0;
    case 'End':
      return items.length - 1;
    default:
      return -1;
  }
}

interface TreeItemProps extends Labelled {
  /** Whether what is below it is in view; null where there is nothing below. */
  readonly open: boolean | null;
  /** The first of the tree, which Tab reaches before any other was chosen. */
  readonly first?: boolean;
  readonly className?: string;
  onOpen?(open: boolean): void;
}

/** An item of a tree: Right opens it, Left closes it. */
export function TreeItem({ label, open, first = false, className = '', onOpen, children }: TreeItemProps) {
  return (
    <li
      role="treeitem"
      tabIndex={first ? 0 : -1}
      aria-label={label}
      aria-expanded={open ?? undefined}
      className={`outline-selected -outline-offset-2 focus-visible:outline-2 ${className}`}
      onKeyDown={(event) => {
        const opens = open === false && event.key === 'ArrowRight';
        const closes = open === true && event.key === 'ArrowLeft';
        if (event.target !== event.currentTarget || (!opens && !closes)) return;
        event.preventDefault();
        event.stopPropagation();
        onOpen?.(opens);
      }}
    >
      {children}
    </li>
  );
}

/** The items below an item. */
export function TreeGroup({ children }: { readonly children: ReactNode }) {
  // biome-ignore lint/a11y/useSemanticElements: items of a tree are grouped, not fields of a form
  return <ul role="group">{children}</ul>;
}
