/** Woven plan → statements of one dialect. The one maker of statements over the rows of entities. */
export { compile } from './compile.js';
export type {
  Binding,
  Compiled,
  CompiledJoin,
  CompiledLoad,
  CompiledNest,
  CompiledRead,
  CompiledRows,
  CompiledStatement,
  KindOutput,
  LoadPlace,
  Output,
} from './compiled.js';
export type { CompileOptions } from './compiling-of.js';
export { joinSelect } from './join.js';
export { keyOutputs } from './key-outputs.js';
