import type { DesignView } from '../../core/view-models/index.js';
import { preferences } from './preferences.js';

/** Should the tour be offered? Until it was once gone through or put away. */
export function tourWanted(): boolean {
  return preferences.getItem('tour') !== 'done';
}

/** Whether the tour can be taken in a design: its steps are about the library, and in another tree they would lead nowhere. */
export function isTourable({ queries }: Pick<DesignView, 'queries'>): boolean {
  return queries.some(({ name }) => name === 'overdue_by_branch');
}
