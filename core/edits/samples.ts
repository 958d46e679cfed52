import type { Design } from '../design/index.js';
import type { Edit, SampleSyntax } from '../notation/index.js';
import { declarationAfter } from './clicks.js';
import { assignmentsText, type Entry, nameText } from './command-text.js';
import { insertion, lineEnd } from './lines.js';

/** How many rows of an entity are made beside those that have a name; what else is said of its samples stays. */
export function setSampleCount(design: Design, entity: string, count: number): Edit[] {
  const own = samplesOf(design, entity);
  const stated = own.find((sample) => sample.count !== null) ?? own[0];
  if (stated === undefined) return [newSample(design, `sample ${nameText(entity)} ${count}`)];
  const head = design.text.slice(stated.head.start, stated.entity.span.end);
  return [{ span: stated.head, text: `${head} ${count}` }];
}

/** A row that samples have from now on, under a name by which others can point at it. */
export function addSampleRow(design: Design, entity: string, name: string, values: readonly Entry[]): Edit[] {
  const line = `${nameText(name)}: ${assignmentsText(values)}`;
  const own = samplesOf(design, entity);
  const rows = own.flatMap(({ lines }) => lines.filter(({ kind }) => kind === 'row'));
  const last = rows.at(-1)?.span ?? own[0]?.head;
  if (last === undefined) return [newSample(design, `sample ${nameText(entity)}\n  ${line}`)];
  return [insertion(lineEnd(design.text, last.end), `\n  ${line}`)];
}

function samplesOf({ syntax }: Design, entity: string): readonly SampleSyntax[] {
  return syntax.declarations.filter((one): one is SampleSyntax => one.kind === 'sample' && one.entity.text === entity);
}

function newSample(design: Design, text: string): Edit {
  return declarationAfter(design, ['sample', 'query', 'scope', 'relation', 'entity', 'tree'], text);
}
