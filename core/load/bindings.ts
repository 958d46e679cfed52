import { type BoundValue, type EngineValues, parseWire, type Wire } from '../values/index.js';
import type { Binding } from './compile/index.js';

/** The inputs of a run: values of parameters, the clock, keys of named sample rows. */
export interface RunInputs {
  /** The parameters as written; missing or null for none. */
  readonly parameters: Readonly<Record<string, string | null>>;
  /** What now is, as a timestamp in wire form. */
  readonly now: string;
  /** The keys of the sample rows, by `Entity(row)`. */
  readonly sampleKeys: Readonly<Record<string, Wire>>;
  /** The values of whoever is at work, by name, as in `me.branch`; nobody has none. Left out or null: the system, which is no row. */
  readonly me?: ReadonlyMap<string, Wire> | 'nobody' | null;
}

export type Bound =
  | { readonly ok: true; readonly parameters: Readonly<Record<string, BoundValue>> }
  | { readonly ok: false; readonly problems: readonly string[] };

/** The values of a plan's parameters, each read as its declared type; or what is missing or does not fit. */
export function bind(bindings: readonly Binding[], inputs: RunInputs, values: EngineValues): Bound {
  const parameters = new Map<string, BoundValue>();
  const problems: string[] = [];
  for (const { name, from, type } of bindings) {
    switch (from.kind) {
      case 'clock':
        parameters.set(name, from.which === 'now' ? inputs.now : inputs.now.slice(0, 10));
        break;
      case 'me':
        parameters.set(name, null);
        if (inputs.me === undefined || inputs.me === null)
          problems.push(`${from.name} is asked for, and the system is nobody’s row. Say on whose behalf it is asked.`);
        else if (inputs.me !== 'nobody') {
          if (!inputs.me.has(from.name)) throw new Error(`nobody has looked up ${from.name}`);
          parameters.set(name, values.bind(type, inputs.me.get(from.name) ?? null));
        }
        break;
      case 'sample row': {
        const row = `${from.entity}(${from.row})`;
        const key = sampleKey(inputs, row);
        if (key === undefined)
          problems.push(`There is no sample row ${row} in this database. Give the key instead, as in ${from.entity}(1).`);
        else parameters.set(name, values.bind(type, key));
        break;
      }
      case 'parameter': {
        const written = Object.hasOwn(inputs.parameters, from.parameter) ? (inputs.parameters[from.parameter] ?? null) : null;
        if (written === null) {
          if (!from.optional) problems.push(`The query needs a value for ${from.parameter}.`);
          parameters.set(name, null);
          break;
        }
        const sample = from.type.kind === 'row' ? sampleKey(inputs, `${from.type.entity}(${written})`) : undefined;
        if (sample !== undefined) {
          parameters.set(name, values.bind(type, sample));
          break;
        }
        const parsed = parseWire(type, written);
        if (parsed.ok) parameters.set(name, values.bind(type, parsed.value));
        else problems.push(`${from.parameter}: ${parsed.problem}`);
        break;
      }
    }
  }
  return problems.length === 0 ? { ok: true, parameters: Object.fromEntries(parameters) } : { ok: false, problems };
}

function sampleKey({ sampleKeys }: RunInputs, row: string): Wire | undefined {
  return Object.hasOwn(sampleKeys, row) ? sampleKeys[row] : undefined;
}
