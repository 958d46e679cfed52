/** The code of a component that is fetched when it is first wanted. */
export type FetchModule = () => Promise<React.ComponentType>;

/** The code of each screen, by the word for it in an address. */
export const screenModules = {
  design: async () => (await import('../screens/design/index.js')).DesignScreen,
  changes: async () => (await import('../screens/changes/index.js')).ChangesScreen,
  rows: async () => (await import('../screens/rows/index.js')).RowsScreen,
  try: async () => (await import('../screens/try/index.js')).TryScreen,
  reach: async () => (await import('../screens/reach/index.js')).ReachScreen,
  findings: async () => (await import('../screens/findings/index.js')).FindingsScreen,
  share: async () => (await import('../screens/share/index.js')).ShareScreen,
  arrival: async () => (await import('../screens/arrival/index.js')).ArrivalScreen,
  'bring-in': async () => (await import('../screens/bring-in/index.js')).BringInScreen,
} satisfies Readonly<Record<string, FetchModule>>;
