import { headStart } from './app/head-start.js';
import './styles.css';

headStart(location);
// Not awaited: the page's code imports modules of this file's own chunk, and would wait for them while they wait for it.
void import('./app/page.js').then(({ showPage }) => showPage());
