import { readDesign } from '../core/design/index.js';
import { answers } from '../web/workers/answer.js';
import { generatedTree } from './generated-tree.js';
import { medians } from './measure.js';
import { modelJson } from './model-json.js';

/** From a keystroke to its findings, on 500 entities: all that the worker does for it, against reading the model as JSON. */
export function benchKeystroke(): string[] {
  const text = generatedTree(500, 1500);
  const json = modelJson(readDesign(text).model);
  let turn = 0;
  const typed = () => `${text}-- ${turn++}\n`;
  const { findings, parsed, completion } = medians(
    {
      findings: () => answers.view({ text: typed(), dialect: null }),
      parsed: () => JSON.parse(json) as unknown,
      completion: () => answers.complete({ text, offset: text.length - 40 }),
    },
    7,
  );
  return [
    `keystroke to findings, 500 entities and 1,500 relations: ${(findings / parsed).toFixed(2)} × JSON.parse of the model (${findings.toFixed(0)} ms against ${parsed.toFixed(0)} ms)`,
    `a completion there: ${(completion / parsed).toFixed(2)} × the same (${completion.toFixed(0)} ms)`,
  ];
}
