import { readDesign } from '../core/design/index.js';
import { answers } from '../web/workers/answer.js';
import { generatedTree } from './generated-tree.js';
import { medians } from './measure.js';

/** From a keystroke to its findings, on 500 entities: all that the worker does for it, against reading the text alone. */
export function benchKeystroke(): string[] {
  const text = generatedTree(500, 1500);
  let turn = 0;
  const typed = () => `${text}-- ${turn++}\n`;
  const { findings, read, completion } = medians(
    {
      findings: () => answers.view({ text: typed(), dialect: null }),
      read: () => readDesign(typed()),
      completion: () => answers.complete({ text, offset: text.length - 40 }),
    },
    7,
  );
  return [
    `keystroke to findings, 500 entities and 1,500 relations: ${(findings / read).toFixed(2)} × reading the text (${findings.toFixed(0)} ms against ${read.toFixed(0)} ms)`,
    `a completion there: ${(completion / read).toFixed(2)} × reading the text (${completion.toFixed(0)} ms)`,
  ];
}
