/** Text in the kin notation ⇄ Syntax. The lowest folder of core: everything else may import it. */

export { withArticle } from './article.js';
export { DIALECTS, ENTITY_LINE_WORDS } from './entity-lines.js';
export { RESERVED } from './expressions.js';
export * from './finding.js';
export { lex, quoteText, TokenKind, type Tokens, textExpression, unquote } from './lexer.js';
export { didYouMean, nearest } from './nearest.js';
export { inLines, writtenInLines } from './one-line.js';
export {
  type CommandsText,
  isCommands,
  parse,
  parseActor,
  parseCommands,
  parseParameters,
  parseQuery,
  type QueryText,
  type Syntax,
} from './parser.js';
export { format } from './printer.js';
export * from './syntax.js';
