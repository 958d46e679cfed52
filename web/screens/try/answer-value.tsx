import { Hidden, isHidden, storedText } from '../../parts/field-value.js';

/** A value of an answer on one line, as it came. */
export function AnswerValue({ value }: { readonly value: unknown }) {
  if (value === null || value === undefined)
    return (
      <span title="null" className="text-ink-3">
        –
      </span>
    );
  const moment = typeof value === 'string' ? /^(\d{4}-\d\d-\d\d)T(\d\d:\d\d:\d\d)\.0{6}Z$/.exec(value) : null;
  if (moment !== null)
    return (
      <span title={`${String(value)}, UTC`}>
        {moment[1]} {moment[2]}
      </span>
    );
  if (typeof value === 'string') return <>{value.length > 80 ? `${value.slice(0, 77)}…` : value}</>;
  if (isHidden(value)) return <Hidden />;
  if (typeof value === 'object' && 'asStored' in value) {
    return (
      <span className="text-to-many" title="This value does not fit its type; it is shown as it is stored.">
        {storedText(value.asStored)}
      </span>
    );
  }
  return <>{JSON.stringify(value)}</>;
}
