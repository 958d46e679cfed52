import { createRoot } from 'react-dom/client';
import '../../web/styles.css';

/** The least page of the same stack: React, and the same styles and fonts. */
const root = document.getElementById('root');
if (root !== null) createRoot(root).render(<h1 className="font-serif text-title">Nothing here</h1>);
