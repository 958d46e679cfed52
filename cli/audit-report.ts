import { verdictOf } from '../core/audit/index.js';
import { AUDIT_REASONS } from '../core/checks/index.js';
import { type AuditState, type HeldByDatabase, type Hole, type Leak, NEVER_TRIED, neverTriedIn } from '../services/index.js';

/** What an audit is told of: the text and the database, and when. */
export interface AuditSubject {
  readonly file: string;
  readonly database: string;
  readonly at: string;
  /** The text, to say in which lines things stand. */
  readonly text: string;
  /** What of the database held the walls; null where this program did. */
  readonly heldBy: HeldByDatabase | null;
}

/** An audit as Markdown, to be kept. */
export function auditReport(state: AuditState, { file, database, at, text, heldBy }: AuditSubject): string {
  const line = ({ span }: Pick<Hole, 'span'>) => text.slice(0, span.start).split('\n').length;
  const parts = [
    `# Audit of the walls of ${file}\n\nOn ${database}, at ${at}${heldBy === null ? '' : `, held by its ${heldBy.how}`}.\n\n**${verdictOf(state)}**`,
    section(
      'Ways round a wall',
      state.leaks.map((leak) => leakText(leak, heldBy)),
    ),
    section(
      'What walls leave open, or hardly mean',
      state.holes.map((hole) => holeText(hole, line(hole))),
    ),
    section(
      'What is seen of hidden rows, by design',
      state.tells.map((one) => `- Line ${line(one)}: ${one.message}`),
      '\n',
    ),
    section(
      'As whom',
      state.actors.map(({ as, shown, kind }) => `- ${as}${shown === as ? '' : ` (${shown})`}: ${kind}`),
      '\n',
    ),
    `## What was tried\n\n| way | held | went round |\n| --- | ---: | ---: |\n${Object.entries(state.ways)
      .sort(([one], [other]) => one.localeCompare(other))
      .map(([way, { held, leaked }]) => `| ${way} | ${held} | ${leaked} |`)
      .join('\n')}`,
    section(
      'What was not tried',
      [
        ...state.untried.map(
          ({ why, ways, example }) => `- ${ways > 0 ? `${ways} of this kind, as ` : ''}\`${oneLine(example)}\`: ${why}`,
        ),
        ...neverTried({ heldBy }).map((one) => `- ${one}`),
      ],
      '\n',
    ),
  ];
  return `${parts.filter((part) => part !== '').join('\n\n')}\n`;
}

/** What is never tried, in words. */
export function neverTried({ heldBy }: Pick<AuditSubject, 'heldBy'>): readonly string[] {
  return heldBy === null ? NEVER_TRIED : neverTriedIn(heldBy);
}

function section(title: string, items: readonly string[], between = '\n\n'): string {
  return items.length === 0 ? '' : `## ${title}\n\n${items.join(between)}`;
}

function leakText({ way, as, entity, text, told, statement }: Leak, heldBy: AuditSubject['heldBy']): string {
  const sql = statement === '' ? '' : `\n\n\`\`\`sql\n${statement}\n\`\`\``;
  return `### ${way}, to ${entity}, as ${as}\n\n\`\`\`\n${text}\n\`\`\`\n\n${told} ${faultOf(heldBy)}${sql}`;
}

function holeText({ code, weight, message, text, fix }: Hole, line: number): string {
  const tried = text === null ? '' : `\n\n\`\`\`\n${text}\n\`\`\``;
  const out = fix === null ? '' : `\n\n${fix.title}.`;
  return `### Line ${line}: ${weight}\n\n${message} ${AUDIT_REASONS[code]}${tried}${out}`;
}

function oneLine(text: string): string {
  return text.replace(/\s*\n\s*/g, ' ');
}

function faultOf(heldBy: AuditSubject['heldBy']): string {
  return heldBy === null
    ? 'The text states the wall; this way does not hold it, which is a fault of this program.'
    : `The text states the wall; the ${heldBy.how} of the database do not come to it. Print their script anew, and run it in place of the one before.`;
}
