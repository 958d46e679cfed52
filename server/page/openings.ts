import { spokenBy } from '../../contract/index.js';
import { inUseOf, type StoredTree } from '../store/index.js';
import type { Texts } from '../workers/index.js';

/** How long a page waits for what its tree is opened with, in milliseconds: its browser would need longer for it. */
const PATIENCE = 300;
/** A text of more letters is read in the browser: to send what it becomes would take as long. */
const MOST_LETTERS = 100_000;
/** As many trees are kept ready. */
const MOST_KEPT = 16;

/** What trees are opened with, as their texts stand now. */
export class Openings {
  private state: 'not begun' | 'starting' | 'ready' = 'not begun';
  private readonly kept = new Map<string, { readonly of: string; readonly told: Promise<string | null> }>();

  constructor(private readonly texts: Pick<Texts, 'does'>) {}

  /** Starts what reads texts, so that the first tree need not wait for that. */
  begin(): void {
    if (this.state !== 'not begun') return;
    this.state = 'starting';
    void this.texts.does('opening', ['', null]).then(
      () => {
        this.state = 'ready';
      },
      () => {
        this.state = 'not begun';
      },
    );
  }

  /**
   * What a tree is opened with, as JSON.
   *
   * @returns null where the text is too long to send it, cannot be read, or is not read yet; then the browser reads it
   */
  of(tree: StoredTree): Promise<string | null> {
    this.begin();
    if (tree.text.length > MOST_LETTERS) return Promise.resolve(null);
    const dialect = spokenBy({ kind: tree.kind, inUse: inUseOf(tree) });
    const of = `${tree.revision} ${dialect}`;
    const known = this.kept.get(tree.id);
    const told = known?.of === of ? known.told : this.texts.does('opening', [tree.text, dialect]).catch(() => null);
    this.kept.delete(tree.id);
    this.kept.set(tree.id, { of, told });
    for (const id of this.kept.keys()) if (this.kept.size > MOST_KEPT) this.kept.delete(id);
    if (this.state !== 'ready') return Promise.resolve(null);
    return Promise.race([told, new Promise<null>((none) => void setTimeout(none, PATIENCE, null).unref())]);
  }
}
