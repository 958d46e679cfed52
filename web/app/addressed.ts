/** The tree and the screen that an address of the page is about; null where it is about no tree. */
export function addressed(pathname: string): { readonly tree: string; readonly screen: string } | null {
  const [, tree, screen = 'design'] = /^\/tree\/([^/]+)(?:\/([^/]+))?/.exec(pathname) ?? [];
  return tree === undefined ? null : { tree, screen };
}
