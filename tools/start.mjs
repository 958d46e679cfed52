/** `npm start`: installs what is missing, builds what is stale, and starts the workbench. Options go to `serve`. */
import { chdir } from 'node:process';
import { fileURLToPath } from 'node:url';
import { buildIfStale } from './build.mjs';
import { installPackages } from './install.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
chdir(root);
installPackages();
buildIfStale();
process.argv.splice(2, 0, 'serve');
await import(new URL('../dist/cli/main.js', import.meta.url).href);
