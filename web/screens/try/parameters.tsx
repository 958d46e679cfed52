import { useChoicesQuery } from '../../app/api.js';
import { useAppSelector } from '../../app/store.js';
import type { ParameterView } from '../../workers/design-view.js';

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
        // biome-ignore lint/a11y/noLabelWithoutControl: Value is the control, whichever sort it is
        <label key={parameter.name} className="grid grid-cols-[minmax(60px,auto)_1fr] items-center gap-2">
          <span className="font-mono text-small">{parameter.name}</span>
          <Value
            tree={tree}
            parameter={parameter}
            value={values[parameter.name] ?? ''}
            onChange={(value) => onChange(parameter.name, value)}
          />
        </label>
      ))}
      <label className="block">
        <span className="text-small text-ink-2">{parameters.length === 0 ? 'None. Declare some here:' : 'Declared as'}</span>
        <input
          value={head}
          placeholder="branch Branch, since date"
          className="mt-0.5 block w-full rounded-sm border border-line-2 bg-label px-2 py-0.5 font-mono text-small"
          onChange={(event) => onHead(event.target.value)}
        />
      </label>
    </div>
  );
}

const BOX = 'w-full min-w-0 rounded-sm border border-line-2 bg-label px-2 py-1';

function Value({
  tree,
  parameter,
  value,
  onChange,
}: {
  readonly tree: string;
  readonly parameter: ParameterView;
  readonly value: string;
  onChange(value: string): void;
}) {
  if (parameter.entity !== null) return <RowChoice tree={tree} entity={parameter.entity} value={value} onChange={onChange} />;
  if (parameter.values !== null) {
    return (
      <select className={BOX} value={value} onChange={(event) => onChange(event.target.value)}>
        <option value="" />
        {parameter.values.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </select>
    );
  }
  return (
    <input
      className={`${BOX} font-mono text-small`}
      value={value}
      placeholder={parameter.type}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}

function RowChoice({
  tree,
  entity,
  value,
  onChange,
}: {
  readonly tree: string;
  readonly entity: string;
  readonly value: string;
  onChange(value: string): void;
}) {
  const revision = useAppSelector((state) =>
    state.workspace.database?.status === 'ready' ? state.workspace.database.revision : 0,
  );
  const { data, isFetching } = useChoicesQuery({ tree, entity, revision });
  const rows = data?.rows ?? [];
  if (data?.more === true)
    return (
      <input
        className={`${BOX} font-mono text-small`}
        value={value}
        placeholder={`key of a ${entity}`}
        onChange={(event) => onChange(event.target.value)}
      />
    );
  return (
    <select className={BOX} value={value} onChange={(event) => onChange(event.target.value)}>
      <option value="">{isFetching ? 'looking…' : rows.length === 0 ? `no ${entity} yet` : 'choose…'}</option>
      {rows.map((row) => (
        <option key={row.key} value={row.key}>
          {row.shown}
        </option>
      ))}
    </select>
  );
}
