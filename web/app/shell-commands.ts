import type { DesignView } from '../../core/view-models/index.js';
import type { Command } from './commands.js';
import { store, type useAppDispatch } from './store.js';
import { chooseTheme, currentTheme } from './theme.js';
import { redone, undone } from './workspace.js';

/** A sheet that lies over the page. */
export type Sheet = 'palette' | 'reference' | 'revisions' | 'database';

type Dispatch = ReturnType<typeof useAppDispatch>;

/** The commands that change the text, or take it along. */
export function textCommands(dispatch: Dispatch, go: (path: string) => void, onSheet: (sheet: Sheet) => void): Command[] {
  return [
    {
      id: 'relate anywhere',
      title: 'Relate two entities…',
      group: 'Text',
      words:
        'new relation association foreign key fk reference belongs has one-to-many many-to-many join junction bridge table through pivot add',
      run: () => go('design?panel=relate'),
    },
    {
      id: 'undo',
      title: 'Undo the last change of the text',
      group: 'Text',
      words: 'take back revert',
      keys: 'Ctrl Z',
      run: () => void dispatch(undone()),
    },
    {
      id: 'redo',
      title: 'Redo what was taken back',
      group: 'Text',
      words: 'again',
      keys: 'Ctrl Shift Z',
      run: () => void dispatch(redone()),
    },
    {
      id: 'revisions',
      title: 'Revisions: what changed, and a way back',
      group: 'Text',
      words: 'history versions restore diff log rollback',
      run: () => onSheet('revisions'),
    },
    {
      id: 'copy text',
      title: 'Copy the whole text',
      group: 'Text',
      words: 'kin clipboard export',
      run: () => void navigator.clipboard.writeText(store.getState().workspace.text),
    },
    { id: 'save text', title: 'Save the text as a .kin file', group: 'Text', words: 'download export', run: () => download() },
  ];
}

/** The commands that concern the page itself. */
export function pageCommands(onSheet: (sheet: Sheet) => void, onTour: (touring: boolean) => void): Command[] {
  return [
    {
      id: 'database',
      title: 'Database in use: SQLite, PostgreSQL or MariaDB',
      group: 'Page',
      words: 'connect connection server address engine dialect switch postgres mariadb embedded unlock',
      run: () => onSheet('database'),
    },
    {
      id: 'theme',
      title: 'Turn the page light or dark',
      group: 'Page',
      words: 'theme mode night colors',
      run: () => chooseTheme(currentTheme() === 'light' ? 'dark' : 'light'),
    },
    {
      id: 'reference',
      title: 'The notation, and the keys',
      group: 'Page',
      words: 'help reference syntax shortcuts documentation',
      keys: '?',
      run: () => onSheet('reference'),
    },
    { id: 'tour', title: 'Take the tour', group: 'Page', words: 'help start introduction', run: () => onTour(true) },
  ];
}

/** A command for each name of the text: its entities and their rows, its relations, its queries. */
export function nameCommands(view: DesignView, go: (path: string) => void): Command[] {
  const roles = new Map<string, string[]>();
  for (const { name, ends } of view.entities)
    for (const end of ends) {
      const known = roles.get(end.relation);
      if (known === undefined) roles.set(end.relation, [`${name}.${end.name}`]);
      else known.push(`${name}.${end.name}`);
    }
  return [
    ...view.entities.flatMap(({ name, table }): Command[] => [
      {
        id: `entity ${name}`,
        title: name,
        group: 'Entity',
        words: `table model class ${table}`,
        run: () => go(`design?select=entity:${name}`),
      },
      {
        id: `rows ${name}`,
        title: `Rows of ${name}`,
        group: 'Rows',
        words: `data browse records grid ${table}`,
        run: () => go(`rows/${encodeURIComponent(name)}`),
      },
    ]),
    ...view.relations.map(({ name, form }): Command => {
      const own = roles.get(name) ?? [];
      return {
        id: `relation ${name}`,
        title: name,
        hint: `${form}, ${own.join(' and ')}`,
        group: 'Relation',
        words: `${form} foreign key join ${own.join(' ').replaceAll('.', ' ')}`,
        run: () => go(`design?select=relation:${name}`),
      };
    }),
    ...view.queries.map(
      ({ name, note }): Command => ({
        id: `query ${name}`,
        title: name,
        group: 'Query',
        words: note ?? '',
        ...(note === null ? {} : { hint: note }),
        run: () => go(`try?query=${name}`),
      }),
    ),
  ];
}

function download(): void {
  const { text, view } = store.getState().workspace;
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type: 'text/plain' }));
  link.download = `${(view?.title ?? 'tree').toLowerCase().replace(/[^a-z0-9]+/g, '-')}.kin`;
  link.click();
  URL.revokeObjectURL(link.href);
}
