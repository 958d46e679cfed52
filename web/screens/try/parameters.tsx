import { useId } from 'react';
import { withArticle } from '../../../core/notation/index.js';
import type { ParameterView } from '../../../core/view-models/index.js';
import { useChoicesQuery } from '../../app/api.js';
import { Input, Select } from '../../parts/input.js';

interface ParametersProps {
  readonly tree: string;
  readonly parameters: readonly ParameterView[];
  readonly head: string;
  readonly values: Readonly<Record<string, string>>;
  onHead(head: string): void;
  onChange(name: string, value: string): void;
}

/** A field for each parameter; where a row is asked for, the rows to choose from. */
export function Parameters({ tree, parameters, head, values, onHead, onChange }: ParametersProps) {
  return (
    <div className="space-y-2">
      <h2 className="font-serif text-ink-2 italic">Parameters</h2>
      {parameters.map((parameter) => (
        <div key={parameter.name} className="grid grid-cols-[minmax(60px,auto)_1fr] items-center gap-2">
          <Value
            tree={tree}
            parameter={parameter}
            value={values[parameter.name] ?? ''}
            onChange={(value) => onChange(parameter.name, value)}
          />
        </div>
      ))}
      <label className="block">
        <span className="text-small text-ink-2">{parameters.length === 0 ? 'None. Declare some here:' : 'Declared as'}</span>
        <Input
          value={head}
          placeholder="branch Branch, since date"
          code
          className="mt-0.5 block w-full"
          onChange={(event) => onHead(event.target.value)}
        />
      </label>
    </div>
  );
}

interface ValueProps {
  readonly tree: string;
  readonly parameter: ParameterView;
  readonly value: string;
  onChange(value: string): void;
}

function Value({ tree, parameter, value, onChange }: ValueProps) {
  const id = useId();
  const { entity, values } = parameter;
  return (
    <>
      <label htmlFor={id} className="font-mono text-small">
        {parameter.name}
      </label>
      {parameter.many ? (
        <Written id={id} value={value} placeholder={`${parameter.type}, ${parameter.type}, …`} onChange={onChange} />
      ) : entity !== null ? (
        <RowChoice id={id} tree={tree} entity={entity} value={value} onChange={onChange} />
      ) : values !== null ? (
        <Choices
          id={id}
          empty=""
          value={value}
          choices={values.map((choice) => ({ key: choice, shown: choice }))}
          onChange={onChange}
        />
      ) : (
        <Written
          id={id}
          value={value}
          type={INPUT_TYPES[parameter.type] ?? 'text'}
          placeholder={parameter.optional ? `${parameter.type}, or nothing` : parameter.type}
          onChange={onChange}
        />
      )}
    </>
  );
}

interface ControlProps {
  readonly id: string;
  readonly value: string;
  onChange(value: string): void;
}

/** The browser's own control for a type, where it has one. */
const INPUT_TYPES: Readonly<Record<string, string>> = { date: 'date', time: 'time' };

function Written({
  id,
  value,
  placeholder,
  type = 'text',
  onChange,
}: ControlProps & { readonly placeholder: string; readonly type?: string }) {
  return (
    <Input
      id={id}
      type={type}
      inputMode={placeholder.startsWith('integer') || placeholder.startsWith('decimal') ? 'decimal' : undefined}
      code
      className="w-full"
      value={value}
      placeholder={placeholder}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}

function Choices({
  id,
  value,
  empty,
  choices,
  onChange,
}: ControlProps & { readonly empty: string; readonly choices: readonly { readonly key: string; readonly shown: string }[] }) {
  return (
    <Select id={id} className="w-full" value={value} onChange={(event) => onChange(event.target.value)}>
      <option value="">{empty}</option>
      {choices.map((choice) => (
        <option key={choice.key} value={choice.key}>
          {choice.shown}
        </option>
      ))}
    </Select>
  );
}

/** The rows of an entity to choose from; where they are too many, its key is written. */
function RowChoice({ tree, entity, ...control }: ControlProps & { readonly tree: string; readonly entity: string }) {
  const { data, isFetching } = useChoicesQuery({ tree, entity });
  const rows = data?.rows ?? [];
  if (data?.more === true) return <Written {...control} placeholder={`key of ${withArticle(entity)}`} />;
  return (
    <Choices {...control} empty={isFetching ? 'looking…' : rows.length === 0 ? `no ${entity} yet` : 'choose…'} choices={rows} />
  );
}
