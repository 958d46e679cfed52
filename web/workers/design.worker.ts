import { designView } from './design-view.js';

// Reading, resolving and laying out run here, so that typing never waits for them.
self.onmessage = (event: MessageEvent<string>) => {
  self.postMessage(designView(event.data));
};
