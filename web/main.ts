import { showFirstPicture } from './app/first-picture.js';
import { headStart, openingTold } from './app/head-start.js';
import { loadPreferences } from './app/preferences.js';
import { applyTheme } from './app/theme.js';
import './styles.css';

/** How long the first picture is waited for where no frame is drawn, as in a page that is out of sight, in milliseconds. */
const WITHOUT_FRAME = 100;

/** Waits until what is there by now has been drawn. */
function frame(): Promise<void> {
  return new Promise((drawn) => {
    requestAnimationFrame(() => setTimeout(drawn));
    setTimeout(drawn, WITHOUT_FRAME);
  });
}

async function showWholePage(): Promise<void> {
  const told = openingTold();
  if (told !== undefined) {
    // What was told with the page is there at once.
    void loadPreferences();
    applyTheme();
    // The code that follows keeps the browser from drawing for as long as it begins.
    if (showFirstPicture(told, location)) await frame();
  }
  headStart(location);
  const { showPage } = await import('./app/page.js');
  await showPage();
}

// Not awaited: the page's code imports modules of this file's own chunk, and would wait for them while they wait for it.
void showWholePage();
