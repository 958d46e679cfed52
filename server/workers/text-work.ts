/** The process that brings databases in and texts together: whatever of that takes long holds nobody up. */
import { readDesign } from '../../core/design/index.js';
import type { DialectName } from '../../core/notation/index.js';
import { bringAgain, merge } from '../../core/revisions/index.js';
import { dialectOfScript } from '../../core/sql/index.js';
import { openingTold } from '../../core/view-models/index.js';
import { bringIn, bringInScript, bringInScriptEmbedded, bringInServer } from '../../services/index.js';
import { answering } from './answering.js';
import type { Work } from './messages.js';
import type { TextWorks } from './texts.js';

/** A function whose arguments come as a list; one that tells its steps takes what it tells them to behind these. */
function work(call: (...given: never[]) => unknown): Work {
  const named = call as (...given: readonly unknown[]) => unknown;
  return (argument, { step }) => named(...(argument as readonly unknown[]), step);
}

const works: { readonly [Name in keyof TextWorks]: Work } = {
  merge: work(merge),
  bringAgain: work(bringAgain),
  dialectOfScript: work(dialectOfScript),
  opening: work((text: string, dialect: DialectName | null) => JSON.stringify(openingTold(readDesign(text, dialect)))),
  bringIn: work(bringIn),
  bringInScript: work(bringInScript),
  bringInScriptEmbedded: work(bringInScriptEmbedded),
  bringInServer: work(bringInServer),
};

answering(works);
