import { useCallback } from 'react';
import { useNavigate, useParams } from 'react-router';

/** The address of an entity's rows, narrowed by a condition of the notation. */
export function rowsLink(tree: string, entity: string, where = ''): string {
  const search = where === '' ? '' : `?${new URLSearchParams({ where }).toString()}`;
  return `/tree/${tree}/rows/${encodeURIComponent(entity)}${search}`;
}

/** The address of one row with all its kin. */
export function rowLink(tree: string, entity: string, key: unknown): string {
  return `/tree/${tree}/rows/${encodeURIComponent(entity)}/${encodeURIComponent(String(key))}`;
}

/** The address of a try of a query's text. */
export function tryLink(tree: string, text: string): string {
  return `/tree/${tree}/try?${new URLSearchParams({ text }).toString()}`;
}

/** The search parameter of the map that holds the commands of a delete. */
export const DELETE = 'delete';

/** The address of the map with what a delete would reach. @param commands that delete */
export function reachLink(tree: string, commands: string): string {
  return `/tree/${tree}/design?${new URLSearchParams({ [DELETE]: commands }).toString()}`;
}

/** The search parameter of the map that names the database whose changes it shows. */
export const PLANNED = 'changes';

/** The address of the map with what would change in a database. */
export function plannedLink(tree: string, database: string): string {
  return `/tree/${tree}/design?${new URLSearchParams({ [PLANNED]: database }).toString()}`;
}

/** The address of the changes of a database. */
export function changesLink(tree: string, database: string): string {
  return `/tree/${tree}/changes?${new URLSearchParams({ database }).toString()}`;
}

/** Goes to the address that a function of the open tree's id gives. */
export function useGo(): (address: (tree: string) => string) => void {
  const { tree = '' } = useParams();
  const navigate = useNavigate();
  return useCallback((address) => void navigate(address(tree)), [navigate, tree]);
}
