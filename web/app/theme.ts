import { preferences } from './preferences.js';

export type Theme = 'light' | 'dark';

const NAME = 'theme';

/** The theme in use: as chosen, else as the system has it. */
export function currentTheme(): Theme {
  const chosen = preferences.getItem(NAME);
  if (chosen === 'light' || chosen === 'dark') return chosen;
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light';
}

/** Colours the page. */
export function applyTheme(theme: Theme = currentTheme()): void {
  document.documentElement.dataset.theme = theme;
}

/** Colours the page, and remembers it for this person. */
export function chooseTheme(theme: Theme): void {
  preferences.setItem(NAME, theme);
  applyTheme(theme);
}
