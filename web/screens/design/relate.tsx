import { useEffect, useMemo, useState } from 'react';
import { useParams } from 'react-router';
import type { NewRelation } from '../../../core/edits/index.js';
import type { DeleteRule, Knows } from '../../../core/notation/index.js';
import type { DesignView } from '../../../core/view-models/index.js';
import { useEntityCountsQuery } from '../../app/api.js';
import { askDesign } from '../../app/design-client.js';
import { useRowsReady } from '../../app/rows-ready.js';
import { store, useAppDispatch } from '../../app/store.js';
import { textChanged } from '../../app/workspace.js';
import { Button } from '../../parts/button.js';
import { Dialog } from '../../parts/dialog.js';
import { Input } from '../../parts/input.js';
import { Choice } from '../../parts/menu.js';
import { ChangedSql, Sql } from '../../parts/sql.js';
import type { Clicked } from '../../workers/asks.js';
import { type BackKnows, effectOnRows, type RelationDraft, suggested } from './relating.js';
import { storingChoices } from './storing.js';

const KNOWS: readonly Knows[] = ['one', 'at most one', 'many'];
const KNOWS_BACK: readonly BackKnows[] = [...KNOWS, 'nothing of'];
const RULES = ['as the convention has it', 'restrict', 'cascade', 'set null', 'no action'] as const;
const NONE: readonly never[] = [];
/** Relates two entities: the two sentences with drop-downs, and beside them what becomes of it as one chooses. */
export function Relate({
  view,
  from,
  onClose,
}: {
  readonly view: DesignView;
  readonly from: string | null;
  /** With the name of the relation that was added; null where none was. */
  onClose(added: string | null): void;
}) {
  const dispatch = useAppDispatch();
  const names = view.entities.map(({ name }) => name);
  const [stated, setStated] = useState<RelationDraft>(() => draftFrom(view, from));
  const relation = useMemo(() => suggested(view, stated), [view, stated]);
  const preview = usePreview(relation);
  const say = (change: Partial<RelationDraft>) => setStated((before) => ({ ...before, ...change }));
  const self = stated.subject === stated.target && stated.more.length === 0;
  const storing = storingChoices(view, relation);
  const ready = preview !== null && preview.problems.length === 0 && preview.card !== null;
  const add = () => {
    if (!ready) return;
    dispatch(textChanged(preview.text, `relate ${relation.subject} and ${relation.target}`));
    onClose(relation.name);
  };
  return (
    <Dialog title="Relate entities" wide onClose={() => onClose(null)}>
      <div className="grid grid-cols-[minmax(0,5fr)_minmax(0,6fr)]">
        <form
          className="space-y-4 p-5"
          onSubmit={(event) => {
            event.preventDefault();
            add();
          }}
        >
          <Sentence
            label="First sentence"
            subject={stated.subject}
            knows={stated.knows}
            words={KNOWS}
            target={stated.target}
            role={relation.role}
            names={names}
            more={stated.more}
            onMore={(more) => say({ more, role: null, backRole: null, backs: null, name: null, stored: '', bothWays: false })}
            onSubject={(subject) => say({ subject, role: null, backRole: null, backs: null, name: null, stored: '' })}
            onTarget={(target) =>
              say({ target, role: null, backRole: null, backs: null, name: null, stored: '', bothWays: false })
            }
            onKnows={(knows) => say({ knows, role: null, stored: '', bothWays: stated.bothWays && knows === 'many' })}
            onRole={(role) => say({ role })}
          />
          {self && stated.knows === 'many' && (
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                checked={stated.bothWays}
                onChange={(event) => say({ bothWays: event.target.checked, stored: '' })}
              />
              both ways: whoever is known knows back
            </label>
          )}
          {!stated.bothWays && <WayBack stated={stated} relation={relation} onSay={say} />}
          <Storing choices={storing} stored={stated.stored} onStore={(stored) => say({ stored })} />
          <Naming stated={stated} relation={relation} preview={preview} onSay={say} />
          <Effects relation={relation} />
          {preview?.problems.map((problem) => (
            <p key={problem} role="alert" className="border-l-3 border-harm bg-sheet px-3 py-1.5">
              {problem}
            </p>
          ))}
          <div className="sticky bottom-0 -mx-5 -mb-5 flex gap-2 border-t border-line bg-label px-5 py-3">
            <Button strong type="submit" disabled={!ready}>
              Add to the text
            </Button>
            <Button onClick={() => onClose(null)}>Leave it</Button>
          </div>
        </form>
        <Preview preview={preview} />
      </div>
    </Dialog>
  );
}

/** The relation that the dialog begins with: of the entity that is selected, or the first, to one that it is not related to. */
function draftFrom({ entities }: DesignView, from: string | null): RelationDraft {
  const names = entities.map(({ name }) => name);
  const subject = from ?? names[0] ?? '';
  // What it is not related to yet is the likelier wish.
  const known = new Set(entities.find(({ name }) => name === subject)?.ends.map(({ target }) => target));
  const others = names.filter((name) => name !== subject);
  const target = others.find((name) => !known.has(name)) ?? others[0] ?? subject;
  return {
    subject,
    target,
    more: [],
    knows: 'one',
    back: 'many',
    backs: null,
    bothWays: false,
    role: null,
    backRole: null,
    name: null,
    stored: '',
    onDelete: null,
  };
}

/** What the relation means for the rows that are there. */
function Effects({ relation }: { readonly relation: NewRelation }) {
  const { tree = '' } = useParams();
  const made = useRowsReady();
  const { data: counted } = useEntityCountsQuery({ tree }, { skip: !made });
  return (
    <div>
      <h3 className="text-small text-ink-3">The rows that are there</h3>
      <ul>
        {effectOnRows(relation, made ? (counted?.rows ?? null) : null).map((effect) => (
          <li key={effect}>{effect}</li>
        ))}
      </ul>
    </div>
  );
}

/** Where it can be stored, each with what speaks for it. */
function Storing({
  choices,
  stored,
  onStore,
}: {
  readonly choices: ReturnType<typeof storingChoices>;
  readonly stored: string;
  onStore(stored: string): void;
}) {
  return (
    <fieldset className="border border-line bg-sheet px-4 pt-1.5 pb-2">
      <legend className="px-1 text-small text-ink-3">Stored in</legend>
      {choices.map((choice) => (
        <label key={choice.title} className="flex items-baseline gap-2 py-0.5">
          <input
            type="radio"
            name="storing"
            className="translate-y-0.5"
            checked={stored === (choice.stored ?? '')}
            onChange={() => onStore(choice.stored ?? '')}
          />
          <span>
            <span className="font-serif font-semibold">{choice.title}</span>{' '}
            <span className="text-small text-ink-2">{choice.why}</span>
          </span>
        </label>
      ))}
    </fieldset>
  );
}

/** How it is called, where exactly it is stored, and what a delete does. */
function Naming({
  stated,
  relation,
  preview,
  onSay,
}: {
  readonly stated: RelationDraft;
  readonly relation: NewRelation;
  readonly preview: Clicked | null;
  onSay(change: Partial<RelationDraft>): void;
}) {
  return (
    <>
      <div className="grid grid-cols-[auto_1fr] items-center gap-x-3 gap-y-2">
        <label htmlFor="relation-name" className="text-ink-2">
          It is called
        </label>
        <Input
          id="relation-name"
          code
          className="w-56"
          value={relation.name}
          onChange={(event) => onSay({ name: event.target.value })}
        />
        <label htmlFor="relation-store" className="text-ink-2">
          Exactly
        </label>
        <Input
          id="relation-store"
          code
          className="w-full"
          value={stated.stored}
          placeholder={preview?.card?.kind === 'relation' ? (preview.card.storage[0]?.place ?? '') : ''}
          onChange={(event) => onSay({ stored: event.target.value })}
        />
        <span className="text-ink-2">On delete</span>
        <span className="justify-self-start">
          <Choice
            label="On delete"
            value={stated.onDelete ?? RULES[0]}
            options={RULES}
            onChange={(chosen) => onSay({ onDelete: chosen === RULES[0] ? null : (chosen as DeleteRule) })}
          />
        </span>
      </div>
      {preview?.card?.kind === 'relation' &&
        preview.card.deletes.map((rule) => (
          <p key={rule.when} className="text-ink-2">
            {rule.when}, {rule.then}.
          </p>
        ))}
    </>
  );
}

/** What it becomes: in the text, and in the tables. */
function Preview({ preview }: { readonly preview: Clicked | null }) {
  return (
    <div className="space-y-3 border-l border-line bg-sheet p-5">
      <div>
        <h3 className="text-small text-ink-3">In the text{preview?.card?.kind === 'relation' && `, ${preview.card.form}`}</h3>
        <pre className="border border-line bg-label p-3 font-mono text-small leading-relaxed">{preview?.added}</pre>
      </div>
      {preview?.sql.map(({ table, sql, fresh, added }) => (
        <div key={table}>
          <h3 className="text-small text-ink-3">{fresh ? `A new table, ${table}` : `Table ${table}, as it becomes`}</h3>
          <div className="max-h-64 overflow-auto border border-line bg-label p-3">
            {fresh ? (
              <Sql text={sql} label={`table ${table}`} />
            ) : (
              <ChangedSql text={sql} label={`table ${table}`} marked={added} />
            )}
          </div>
        </div>
      ))}
    </div>
  );
}

/** How whoever is known knows back: all alike, or of several each in words of its own. */
function WayBack({
  stated,
  relation,
  onSay,
}: {
  readonly stated: RelationDraft;
  readonly relation: NewRelation;
  onSay(change: Partial<RelationDraft>): void;
}) {
  const targets = [stated.target, ...stated.more];
  const { backs } = stated;
  const toggle =
    stated.more.length === 0 ? null : (
      <button
        type="button"
        className="text-small text-selected hover:underline"
        onClick={() =>
          onSay({
            backs: backs === null ? Object.fromEntries(targets.map((name) => [name, { back: stated.back, role: null }])) : null,
          })
        }
      >
        {backs === null ? 'say it for each by itself' : 'all alike'}
      </button>
    );
  if (backs === null)
    return (
      <>
        <Sentence
          label="Way back"
          subject={stated.more.length > 0 ? 'Each of them' : stated.target}
          knows={stated.back}
          words={KNOWS_BACK}
          target={stated.subject}
          role={relation.back?.role ?? null}
          names={null}
          onKnows={(back) => onSay({ back, backRole: null, stored: '' })}
          onRole={(backRole) => onSay({ backRole })}
        />
        {toggle}
      </>
    );
  return (
    <>
      {targets.map((name) => {
        const said = backs[name] ?? { back: 'many' as const, role: null };
        return (
          <Sentence
            key={name}
            label={`Way back of ${name}`}
            subject={name}
            knows={said.back}
            words={KNOWS_BACK}
            target={stated.subject}
            role={relation.backs.find(({ entity }) => entity === name)?.role ?? null}
            names={null}
            onKnows={(back) => onSay({ backs: { ...backs, [name]: { back, role: null } } })}
            onRole={(role) => onSay({ backs: { ...backs, [name]: { ...said, role } } })}
          />
        );
      })}
      {toggle}
    </>
  );
}

function Sentence<K extends BackKnows>({
  label,
  subject,
  knows,
  words,
  target,
  role,
  names,
  more = NONE,
  onMore,
  onSubject,
  onTarget,
  onKnows,
  onRole,
}: {
  readonly label: string;
  readonly subject: string;
  readonly knows: K;
  readonly words: readonly K[];
  readonly target: string;
  /** Null where nobody walks this way. */
  readonly role: string | null;
  /** The entities to choose from; null where both ends are settled. */
  readonly names: readonly string[] | null;
  /** Further entities that the role may lead to. */
  readonly more?: readonly string[];
  onMore?(more: readonly string[]): void;
  onSubject?(name: string): void;
  onTarget?(name: string): void;
  onKnows(knows: K): void;
  onRole(role: string): void;
}) {
  const end = (word: string, name: string, choose: ((name: string) => void) | undefined) =>
    names === null || choose === undefined ? (
      <strong className="font-serif">{name}</strong>
    ) : (
      <Choice label={word} value={name} options={names} onChange={choose} />
    );
  const free = (names ?? []).filter((name) => name !== subject && name !== target && !more.includes(name));
  return (
    <fieldset className="border border-line bg-sheet px-4 pt-1.5 pb-3">
      <legend className="px-1 text-small text-ink-3">{label}</legend>
      <div className="flex flex-wrap items-center gap-2 font-serif">
        {subject.includes(' ') ? '' : /^[AEIOU]/.test(subject) ? 'An' : 'A'} {end('Subject', subject, onSubject)} knows
        <Choice label={`${label}: knows`} value={knows} options={words} onChange={onKnows} />
        {end('Target', target, onTarget)}
        {more.map((name, index) => (
          <span key={name} className="flex items-center gap-1">
            or
            <Choice
              label={`Target ${index + 2}`}
              value={name}
              options={[...free, name]}
              onChange={(chosen) => onMore?.(more.map((other) => (other === name ? chosen : other)))}
            />
            <button
              type="button"
              aria-label={`Not ${name}`}
              className="px-1 text-ink-2 hover:text-harm"
              onClick={() => onMore?.(more.filter((other) => other !== name))}
            >
              ×
            </button>
          </span>
        ))}
        {onMore !== undefined && free.length > 0 && (
          <button
            type="button"
            className="text-small text-selected hover:underline"
            onClick={() => onMore([...more, free[0] ?? ''])}
          >
            or another…
          </button>
        )}
        {role !== null && (
          <>
            as
            <Input
              aria-label={`${label}: role`}
              code
              className="w-36"
              value={role}
              onChange={(event) => onRole(event.target.value)}
            />
          </>
        )}
      </div>
    </fieldset>
  );
}

/** What the text would become, kept up with what is chosen. */
function usePreview(relation: NewRelation): Clicked | null {
  const [preview, setPreview] = useState<Clicked | null>(null);
  useEffect(() => {
    let current = true;
    const { text } = store.getState().workspace;
    void askDesign('click', { text, click: { kind: 'add relation', relation } }).then((clicked) => {
      if (current) setPreview(clicked);
    });
    return () => {
      current = false;
    };
  }, [relation]);
  return preview;
}
