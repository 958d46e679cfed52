import { joinedLoad } from './by-join.js';
import { nestedLoad } from './by-json.js';
import { statementLoad } from './by-statement.js';
import type { CompiledLoad, CompiledNest } from './compiled.js';
import { type JoinedRows, type LoadsCompiler, wayOf } from './owners.js';

/** Compiles loads, each in its way. A way to load is one file beside this, and one line here. */
export const compileLoads: LoadsCompiler = (compiling, plans, owners) => {
  const joined: JoinedRows[] = [];
  const nested: CompiledNest[] = [];
  const loads: CompiledLoad[] = [];
  for (const load of plans) {
    const way = wayOf(compiling, load);
    if (way === 'join') joined.push(joinedLoad(compiling, load, owners, compileLoads));
    else if (way === 'json') nested.push(nestedLoad(compiling, load, owners, compileLoads));
    else loads.push(statementLoad(compiling, load, owners, { way, below: compileLoads }));
  }
  return { joined, nested, loads };
};
