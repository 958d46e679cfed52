import { Moon, Sun } from 'lucide-react';
import { useState } from 'react';
import { chooseTheme, currentTheme } from '../app/theme.js';

/** Turns the page from light to dark, and back. */
export function ThemeButton() {
  const [theme, setTheme] = useState(currentTheme());
  const other = theme === 'light' ? 'dark' : 'light';
  return (
    <button
      type="button"
      className="rounded-sm p-1.5 text-ink-2 hover:bg-sheet hover:text-ink"
      aria-label={`Turn the page ${other}`}
      title={`Turn the page ${other}`}
      onClick={() => {
        chooseTheme(other);
        setTheme(other);
      }}
    >
      {theme === 'light' ? <Moon size={16} /> : <Sun size={16} />}
    </button>
  );
}
