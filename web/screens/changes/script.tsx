import type { DesignDatabase } from '../../../contract/index.js';
import { Button } from '../../parts/button.js';
import { keepFile } from '../../parts/keep-file.js';
import { Sql } from '../../parts/sql.js';

/** What runs a script, and what becomes of it where a statement fails. */
const SHELLS: Readonly<Record<DesignDatabase['dialect'], string>> = {
  sqlite: 'for sqlite3; it stops at the first error, and nothing stays',
  postgres: 'for psql; it stops at the first error, and nothing stays',
  mariadb: 'for mariadb; it stops at the first error, and what was done before stays',
};

/** The whole plan as a script of its engine's own shell, and what takes it back once it was rehearsed. */
export function ScriptView({
  script,
  back,
  dialect,
}: {
  readonly script: string;
  /** Null where it was not rehearsed; empty where it asks something first. */
  readonly back: string | null;
  readonly dialect: DesignDatabase['dialect'];
}) {
  if (script === '')
    return <p className="px-6 py-4 text-ink-2">There is no script yet: a question is open, or nothing has to be done.</p>;
  return (
    <div className="space-y-5 px-6 py-4">
      <Part title="Forth" text={script} name="changes" shell={SHELLS[dialect]} />
      {back === null ? (
        <p className="text-ink-2">What takes it back is worked out on the copy: rehearse the plan.</p>
      ) : back === '' ? (
        <p className="text-ink-2">What takes it back asks something first, so there is no script of it.</p>
      ) : (
        <Part title="Back" text={back} name="changes-back" shell={SHELLS[dialect]} />
      )}
    </div>
  );
}

function Part({
  title,
  text,
  name,
  shell,
}: {
  readonly title: string;
  readonly text: string;
  readonly name: string;
  readonly shell: string;
}) {
  return (
    <section aria-label={`Script ${title.toLowerCase()}`}>
      <h3 className="mb-2 flex items-baseline gap-3 border-b border-line-2 pb-1 font-serif font-semibold">
        {title}
        <span className="font-sans text-small font-normal text-ink-2">{shell}</span>
        <Button
          className="ml-auto font-sans text-small font-normal"
          onClick={() => keepFile(new Blob([text], { type: 'application/sql' }), `${name}.sql`)}
        >
          Download
        </Button>
      </h3>
      <Sql text={text} label={`script ${title.toLowerCase()}`} />
    </section>
  );
}
