/** `npm run dev`: the server restarted on each change, and the page served by Vite. */
import { spawn } from 'node:child_process';
import { installPackages } from './install.mjs';

installPackages();
const children = [
  spawn('npx', ['--no-install', 'tsx', 'watch', 'cli/main.ts', 'serve'], { stdio: 'inherit' }),
  spawn('npx', ['--no-install', 'vite'], { stdio: 'inherit' }),
];
for (const child of children) {
  child.on('exit', () => {
    for (const other of children) other.kill();
  });
}
