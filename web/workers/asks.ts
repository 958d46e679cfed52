import type { Card } from '../../core/cards/index.js';
import type { Entry, NewField, NewRelation, Rename } from '../../core/edits/index.js';
import type { FormatName, FormatOptions, LeavingField, PicturedDocument } from '../../core/formats/index.js';
import type { Completions, Use } from '../../core/language/index.js';
import type { CurlLine, CurlOptions } from '../../core/live/index.js';
import type { KindsStorage, NamedThing } from '../../core/model/index.js';
import type { DeleteRule, DialectName, Finding, Span } from '../../core/notation/index.js';
import type { DesignView, MapAsk, MapView } from '../../core/view-models/index.js';

/** What a click does to the text. */
export type Click =
  | { readonly kind: 'add entity'; readonly name: string }
  | { readonly kind: 'add field'; readonly entity: string; readonly field: NewField }
  | { readonly kind: 'type'; readonly entity: string; readonly field: string; readonly type: string }
  | { readonly kind: 'optional'; readonly entity: string; readonly field: string; readonly optional: boolean }
  | { readonly kind: 'default'; readonly entity: string; readonly field: string; readonly literal: string | null }
  | { readonly kind: 'on delete'; readonly relation: string; readonly rule: DeleteRule | null }
  | { readonly kind: 'kinds storage'; readonly entity: string; readonly storage: KindsStorage['kind'] }
  | { readonly kind: 'add relation'; readonly relation: NewRelation }
  | { readonly kind: 'mean'; readonly findings: readonly Pick<Finding, 'code' | 'span'>[]; readonly why: string }
  | { readonly kind: 'change query'; readonly name: string; readonly head: string; readonly body: string }
  | { readonly kind: 'sample count'; readonly entity: string; readonly count: number }
  | { readonly kind: 'add sample row'; readonly entity: string; readonly name: string; readonly values: readonly Entry[] }
  | { readonly kind: 'add expectation'; readonly subject: string; readonly lines: readonly string[] }
  | { readonly kind: 'add query'; readonly name: string; readonly head: string; readonly body: string };

/** A text with a click done, what it becomes, and what is newly wrong with it. */
/** The script of a table that is new, or no longer what it was. */
export interface ChangedTable {
  readonly table: string;
  readonly sql: string;
  readonly fresh: boolean;
  /** The lines, from 0, that were not there before. */
  readonly added: readonly number[];
}

export interface Clicked {
  readonly text: string;
  readonly problems: readonly string[];
  /** Of a new relation: its card, and the SQL of the tables that change. */
  readonly card: Card | null;
  readonly sql: readonly ChangedTable[];
  readonly added: string;
}

/** A type of resources as the page shows it. */
export interface ResourceView {
  readonly name: string;
  readonly entity: string;
  readonly given: boolean;
  readonly abstract: boolean;
  readonly relationships: readonly { readonly name: string; readonly many: boolean; readonly readOnly: boolean }[];
}

export interface ResourcesView {
  readonly types: readonly ResourceView[];
  readonly fields: readonly LeavingField[];
}

export interface NameView {
  readonly thing: NamedThing;
  readonly span: Span;
  readonly definition: Span | null;
  readonly uses: readonly Span[];
  /** What uses it, also by what stands between. */
  readonly usedBy: readonly Use[];
}

/** What the page asks of the worker, and what it is answered. */
export interface Asks {
  /** The dialect is that of the database in use, and holds for what is asked after. */
  readonly view: [{ readonly text: string; readonly dialect: DialectName | null }, DesignView];
  readonly map: [MapAsk & { readonly text: string }, MapView];
  /** A design in a format that others read. */
  readonly format: [{ readonly text: string; readonly format: FormatName; readonly options: FormatOptions }, string];
  /** A design as a document to be read, whose pictures lie in a folder. */
  readonly document: [{ readonly text: string; readonly folder: string }, PicturedDocument];
  /** The text of a model’s JSON; or why it says none. */
  readonly 'text of model': [{ readonly json: string }, { readonly text: string } | { readonly problem: string }];
  /** What its rows are over HTTP, and which fields leave and come in so. */
  readonly resources: [{ readonly text: string }, ResourcesView];
  /** Lines for a shell by which resources of a type are asked for and written. */
  readonly curl: [{ readonly text: string; readonly type: string; readonly options: CurlOptions }, readonly CurlLine[]];
  /** The card of an entity or a relation; null where the model has none of that name. */
  readonly card: [{ readonly text: string; readonly kind: Card['kind']; readonly name: string }, Card | null];
  readonly complete: [{ readonly text: string; readonly offset: number }, Completions];
  readonly 'complete query': [
    { readonly text: string; readonly query: string; readonly head: string; readonly offset: number },
    Completions,
  ];
  readonly 'complete filter': [
    {
      readonly text: string;
      readonly entity: string;
      readonly part: 'where' | 'order by';
      readonly written: string;
      readonly offset: number;
    },
    Completions,
  ];
  readonly hover: [
    { readonly text: string; readonly offset: number },
    { readonly span: Span; readonly lines: readonly string[] } | null,
  ];
  readonly name: [{ readonly text: string; readonly offset: number }, NameView | null];
  readonly rename: [{ readonly text: string; readonly thing: NamedThing; readonly name: string }, Rename];
  readonly click: [{ readonly text: string; readonly click: Click }, Clicked];
  /** What is wrong with a query, or with commands. */
  readonly 'check query': [{ readonly text: string; readonly query: string; readonly head: string }, readonly Finding[]];
}

export type AskKind = keyof Asks;
