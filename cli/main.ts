#!/usr/bin/env node
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { homedir, tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { Argument, Command, Option } from 'commander';
import { readDesign } from '../core/design/index.js';
import { dialects, scriptOf } from '../core/dialects/index.js';
import { type DialectName, format } from '../core/notation/index.js';
import { fileEngine } from '../engines/index.js';
import { followDatabase, makeDatabase } from '../services/index.js';
import { agreeToSql } from './agree.js';
import { applyToDatabase, undoOnDatabase } from './apply.js';
import { auditOnDatabase } from './audit.js';
import { checkText } from './check.js';
import { copyRows } from './copy.js';
import { doOnDatabase } from './do.js';
import { driftOfDatabase } from './drift.js';
import { EXPORTED, exportDesign } from './export.js';
import { exportRows } from './export-rows.js';
import { historyOfDatabase } from './history.js';
import { impactOnDatabase } from './impact.js';
import { broughtFrom, type ImportOptions } from './import.js';
import { importRows } from './import-rows.js';
import { letGoOf } from './let-go.js';
import { makeAt } from './make.js';
import { count, port, seconds } from './numbers.js';
import { isAddress } from './place.js';
import { planForDatabase } from './plan.js';
import { readLog } from './read-log.js';
import {
  isDatabaseFile,
  mayGoOn,
  printChanges,
  printFindings,
  printList,
  printMade,
  printScript,
  readText,
  readTextToWrite,
} from './report.js';
import { runOnDatabase } from './run.js';
import type { ServeLiveFlags } from './serve-live.js';
import { settleDatabase } from './settle.js';
import { printWalls } from './walls-script.js';
import { whyOnDatabase } from './why.js';

const program = new Command('family-tree')
  .description('State the relations of an application’s entities; see the tables, the SQL and the rows.')
  .showHelpAfterError('(add --help for the options and an example)');

/** Ends with a message for a person. */
function refuse(message: string): never {
  process.stderr.write(`${message}\n`);
  process.exit(1);
}

const ROWS_REHEARSED = 'of a server: so many rows are rehearsed on, and of more a part that keeps its relations (1000000)';

/** An example behind a command's help. */
const example = (text: string) => `\nExample:\n  $ family-tree ${text}`;

program
  .command('check')
  .description(
    'tell what is wrong or doubtful in a text, and in the rows of a database, and what it expects that does not hold; ends with 1 where there are errors',
  )
  .argument('<file>', 'a .kin text; - is standard input')
  .option('--json', 'the findings as JSON')
  .option('--db <database>', 'a SQLite file, or an address as postgres://user@host/name, whose rows are looked at too')
  .option('--report <file>', 'with --db: how the expectations of the text came out, as JUnit XML')
  .option('--timeout <seconds>', 'how long a question to the database may take', seconds, 30)
  .addHelpText(
    'after',
    `${example('check library.kin')}\n  $ family-tree check library.kin --db library.db --report expectations.xml`,
  )
  .action(checkText);

program
  .command('format')
  .description('write a text in its one form')
  .argument('<file>', 'a .kin text')
  .option('--check', 'change nothing; end with 1 where the form differs')
  .addHelpText('after', example('format library.kin --check'))
  .action(async (file: string, { check }: { check?: boolean }) => {
    const text = await readTextToWrite(file);
    const formatted = format(text);
    if (formatted === text) {
      if (file === '-' && check !== true) process.stdout.write(text);
      return;
    }
    if (check === true) {
      process.stderr.write(`${file} is not in its form. Run: family-tree format ${file}\n`);
      process.exitCode = 1;
    } else if (file === '-') process.stdout.write(formatted);
    else await writeFile(file, formatted);
  });

program
  .command('sql')
  .description('print the script that makes the tables')
  .argument('<file>', 'a .kin text')
  .addOption(
    new Option('--dialect <name>', 'the dialect of SQL; that of the text where none is named').choices(Object.keys(dialects)),
  )
  .addOption(
    new Option('--walls <how>', 'print instead what the database itself can hold of the walls of the text').choices([
      'views',
      'policies',
    ]),
  )
  .option('--even-so', 'print it though the text has errors: without what they leave out')
  .addHelpText(
    'after',
    `${example('sql library.kin | sqlite3 library.db')}\n  $ family-tree sql library.kin --dialect postgres | psql library`,
  )
  .action(
    async (
      file: string,
      { dialect, evenSo, walls }: { dialect?: DialectName; evenSo?: boolean; walls?: 'views' | 'policies' },
    ) => {
      const design = readDesign(await readText(file), dialect ?? null);
      if (!mayGoOn(file, design, 'printed', evenSo === true)) return;
      if (walls !== undefined) return printWalls(design, walls);
      process.stdout.write(scriptOf(design.dialect, design.schema));
      const losses = design.findings.filter(({ code }) => code === 'not-on-dialect');
      if (losses.length > 0) printFindings(file, design.text, losses, false, process.stderr);
    },
  );

program
  .command('make')
  .description('make the tables and the sample rows: in a new SQLite file, or in an empty database on a server')
  .argument('<file>', 'a .kin text')
  .argument(
    '<database>',
    'the file to make; one that is there is replaced with --force only. Or the address of an empty database',
  )
  .option('--force', 'replace a database that is there')
  .option('--even-so', 'make it though the text has errors: without what they leave out')
  .option('--agree', 'run the SQL that the text states itself, which is printed; without it a person is asked')
  .addHelpText(
    'after',
    `${example('make library.kin library.db')}\n  $ family-tree make library.kin postgres://me@localhost/empty`,
  )
  .action(async (file: string, given: string, { force, agree, evenSo }: MakeFlags) => {
    if (isAddress(given) && !given.startsWith('sqlite:')) {
      await makeAt(file, given, { agreed: agree === true, evenSo: evenSo === true });
      return;
    }
    const database = given.replace(/^sqlite:/, '');
    const design = readDesign(await readText(file), fileEngine.dialect);
    if (!mayGoOn(file, design, 'made', evenSo === true)) return;
    const there = await readFile(database).then(
      () => true,
      () => false,
    );
    if (there && force !== true) {
      refuse(`${database} is there already. Name another file, or add --force to replace it.`);
    }
    if (there && !(await isDatabaseFile(database)))
      refuse(`${database} is no SQLite database, and nothing else is ever replaced. Name another file.`);
    await agreeToSql(design, database, null, agree === true);
    const made = await makeDatabase(design, database);
    if (!made.ok) refuse(made.problem.message);
    printMade(database, made.value);
  });

program
  .command('plan')
  .description(
    'tell what would happen to a database so that it becomes what the text says; ends with 2 where an answer is missing, with 3 where data would be lost',
  )
  .argument('<file>', 'a .kin text')
  .argument('<database>', 'a SQLite file, or an address as postgres://user@host/name; it is only read')
  .option('--answers <file>', 'what a person says to the questions of the plan, a line each')
  .addOption(
    new Option(
      '--script [way]',
      'the statements instead, as a script of the engine’s shell: forth, or back, which is worked out on a copy of the rows',
    )
      .choices(['forth', 'back'])
      .preset('forth'),
  )
  .option('--into <folder>', 'write the scripts there as numbered files, forth and back, which note themselves in the history')
  .option('--name <name>', 'what the scripts are called, in their files and in the history')
  .option('--json', 'the plan as JSON')
  .option('--even-so', 'plan though the text has errors: without what they leave out')
  .option('--schema <name...>', 'of a server: the schemas that are read')
  .option('--timeout <seconds>', 'how long a question to the database may take', seconds, 30)
  .addHelpText('after', example('plan library.kin library.db --answers library.answers'))
  .action(planForDatabase);

program
  .command('apply')
  .description('carry out what “plan” tells: all of it, or nothing')
  .argument('<file>', 'a .kin text')
  .argument('<database>', 'a SQLite file, or an address as postgres://user@host/name; it is changed')
  .requiredOption('--name <name>', 'what the change is called in the history')
  .option('--answers <file>', 'what a person says to the questions of the plan, a line each')
  .option('--allow-loss', 'carry it out though data would be lost')
  .option('--rehearse', 'carry it out on a copy of the rows, and tell what came of it: nothing of it stays')
  .option('--rows <number>', ROWS_REHEARSED, count)
  .option('--even-so', 'carry it out though the text has errors: without what they leave out')
  .option('--schema <name...>', 'of a server: the schemas that are read')
  .option('--timeout <seconds>', 'how long a step may take', seconds, 3600)
  .addHelpText('after', example('apply library.kin library.db --name "players have towns"'))
  .action(applyToDatabase);

program
  .command('undo')
  .description('take back what “apply” did last: the database becomes what it was, and what was kept aside comes back')
  .argument('<database>', 'a SQLite file, or an address as postgres://user@host/name; it is changed')
  .option('--answers <file>', 'what a person says to the questions of the plan, a line each')
  .option('--allow-loss', 'take it back though what was written since would be lost')
  .option('--rehearse', 'take it back on a copy of the rows, and tell what came of it: nothing of it stays')
  .option('--rows <number>', ROWS_REHEARSED, count)
  .option('--schema <name...>', 'of a server: the schemas that are read')
  .option('--timeout <seconds>', 'how long a step may take', seconds, 3600)
  .addHelpText('after', example('undo library.db'))
  .action(undoOnDatabase);

program
  .command('let-go')
  .description('let go of what was kept aside when a plan was carried out: it is gone then, and does not come back by “undo”')
  .argument('<database>', 'a SQLite file, or an address as postgres://user@host/name; it is changed')
  .argument('<number>', 'the number of the plan in the history', count)
  .option('--timeout <seconds>', 'how long a step may take', seconds, 3600)
  .addHelpText('after', example('let-go library.db 3'))
  .action(letGoOf);

program
  .command('settle')
  .description(
    'finish a plan that was left half done in a database, or take it back: on MariaDB, whose definitions commit by themselves, where “apply” was ended meanwhile',
  )
  .argument('<database>', 'a SQLite file, or an address as mariadb://user@host/name; it is changed')
  .addArgument(new Argument('<way>', 'what is to become of it').choices(['finish', 'take-back']))
  .option('--timeout <seconds>', 'how long a step may take', seconds, 3600)
  .addHelpText('after', example('settle mariadb://me@localhost/library finish'))
  .action(settleDatabase);

program
  .command('drift')
  .description(
    'tell what somebody else’s hand has changed in a database since “apply” changed it last; ends with 1 where something has',
  )
  .argument('<file>', 'a .kin text')
  .argument('<database>', 'a SQLite file, or an address as postgres://user@host/name; it is only read, except by --put-back')
  .option('--json', 'the same as JSON, with the edits of the text')
  .addOption(
    new Option('--as <form>', 'the text with what was changed, or the plan that puts it back').choices([
      'text',
      'plan',
      'script',
    ]),
  )
  .option('--put-back <name>', 'put it back, under this name in the history')
  .option('--answers <file>', 'what a person says to the questions of that plan, a line each')
  .option('--allow-loss', 'put it back though data would be lost')
  .option('--schema <name...>', 'of a server: the schemas that are read')
  .option('--timeout <seconds>', 'how long a step may take', seconds, 3600)
  .addHelpText('after', example('drift library.kin library.db --as text > followed.kin'))
  .action(driftOfDatabase);

program
  .command('history')
  .description('tell what was done to a database by “apply”, the newest first')
  .argument('<database>', 'a SQLite file, or an address as postgres://user@host/name; it is only read')
  .option('--json', 'the same as JSON')
  .option('--timeout <seconds>', 'how long it may take', seconds, 30)
  .addHelpText('after', example('history library.db'))
  .action(historyOfDatabase);

program
  .command('run')
  .description('run a query on a database; the answer goes to standard output')
  .argument('<file>', 'a .kin text')
  .argument('<query>', 'the name of a saved query, or the text of one; on one line `;` ends a line of it')
  .requiredOption('--db <database>', 'a SQLite file, or an address as postgres://user@host/name; it is only read')
  .option('--param <name=value...>', 'a parameter of the query')
  .option('--declare <parameters>', 'the parameters of a query’s text, as behind a query’s name')
  .option('--as <actor>', 'on whose behalf: a row as in "Player(3)", nobody, or system, which sees all rows')
  .option('--json', 'the answer as a JSON array of root rows')
  .option('--reads <paths>', 'what the page that uses it reads, as "borrower.name, instrument": held against what is loaded')
  .option('--ways', 'what its loads cost in each way, instead of the answer')
  .option('--total', 'say how many rows there are beside a page, to standard error')
  .option('--plans', 'print how each statement is answered too, with the rows that each step expected and found')
  .option('--log', 'each statement with its parameters, rows and time, to standard error')
  .option('--timeout <seconds>', 'how long it may take', seconds, 30)
  .option('--limit <rows>', 'how many rows a statement may bring', count, 10_000)
  .addHelpText(
    'after',
    `${example('run library.kin overdue_by_branch --db library.db --param branch=1 --log')}\n  $ family-tree run library.kin "from Loan; where overdue; load borrower (name); limit 5" --db library.db`,
  )
  .action(runOnDatabase);

program
  .command('do')
  .description(
    'put rows in, change, link or delete them, by commands; all of them or, where one is refused, none, and it ends with 1',
  )
  .argument('<file>', 'a .kin text')
  .argument('<commands>', 'the commands; on one line `;` stands between them. - is standard input')
  .requiredOption('--db <database>', 'a SQLite file, or an address as postgres://user@host/name; its rows are changed')
  .option('--as <actor>', 'on whose behalf: a row as in "Player(3)", nobody, or system, which may write all rows')
  .option('--rehearse', 'carry them out, tell what they do, and take all of it back')
  .option('--json', 'what became of each row, and what filled each value, as JSON')
  .option('--log', 'each statement, to standard error; with --json, in the JSON')
  .option('--timeout <seconds>', 'how long it may take', seconds, 30)
  .addHelpText(
    'after',
    `${example(`do library.kin "x = create Player with name 'Ines', branch Branch(1); link Player(x).ensembles to Ensemble(2)" --db library.db --rehearse`)}\n  $ family-tree do library.kin - --db library.db < commands.txt`,
  )
  .action(doOnDatabase);

program
  .command('impact')
  .description('what a delete takes along, empties or is refused by, told before anything is touched: the database is only read')
  .argument('<file>', 'a .kin text')
  .argument('<rows>', 'the rows, as behind “delete”; or such commands, with `;` between')
  .requiredOption('--db <database>', 'a SQLite file, or an address as postgres://user@host/name; it is only read')
  .option('--schema <name...>', 'of a server: the schemas that are read')
  .option('--rows <number>', 'how many rows of each group are named', count, 5)
  .option('--as <actor>', 'on whose behalf: a row as in "Player(3)", nobody, or system, which sees all rows')
  .option('--json', 'the same as JSON')
  .option('--log', 'the statement that counted, to standard error; with --json, in the JSON')
  .option('--timeout <seconds>', 'how long it may take', seconds, 30)
  .addHelpText('after', example(`impact library.kin "Player[town = 'Ferren']" --db library.db`))
  .action(impactOnDatabase);

program
  .command('audit')
  .description(
    'try to get round the walls of a text, as each kind of actor that they tell apart; what is written is taken back. It ends with 1 where something got out, with 2 where not all could be looked at, and tells the number of ways tried',
  )
  .argument('<file>', 'a .kin text')
  .argument('<database>', 'a SQLite file, or an address as postgres://user@host/name')
  .option('--schema <name...>', 'the schemas of the database that are the text’s')
  .option('--read-only', 'only what reads; the database is opened to be read')
  .addOption(
    new Option(
      '--held-by <script>',
      'what the script of sql --walls has put into the database is to hold the walls, and nothing of this program',
    ).choices(['views', 'policies']),
  )
  .option('--role <name>', 'with --held-by: the role that sessions work as, which owns no table')
  .option('--json', 'the same as JSON')
  .option('--report <file>', 'write all of it to a Markdown file, to be kept')
  .option('--timeout <seconds>', 'how long one statement may take', seconds, 60)
  .addHelpText('after', example('audit library.kin library.db --report audit.md'))
  .action(auditOnDatabase);

program
  .command('export')
  .description('write a design in a format that others read: to the terminal, or to a file')
  .argument('<file>', 'a .kin text')
  .addOption(new Option('--format <format>', 'the format').choices(EXPORTED).makeOptionMandatory())
  .addOption(
    new Option('--dialect <dialect>', 'of SQL: the dialect; left out, the text’s own').choices(['sqlite', 'postgres', 'mariadb']),
  )
  .option('--kin <entity>', 'of a picture: this entity with its close kin alone')
  .option('--dark', 'of a picture: light on dark')
  .option('--db <database>', 'of openapi: a SQLite file, or an address, whose rows are shown as examples; it is only read')
  .option('--out <path>', 'the file to write; left out, the terminal. The pictures of a document lie in a folder beside it')
  .option('--timeout <seconds>', 'how long one statement may take', seconds, 30)
  .addHelpText('after', example('export library.kin --format markdown --out library.md'))
  .action(exportDesign);

program
  .command('why')
  .description(
    'why somebody sees a row and may change it, or not: each line of each wall with its values; 1 where it is not seen',
  )
  .argument('<file>', 'a .kin text')
  .argument('<row>', 'the row, as in "Loan(7)"')
  .requiredOption('--as <actor>', 'on whose behalf: a row as in "Player(3)", nobody, or system, which sees all rows')
  .requiredOption('--db <database>', 'a SQLite file, or an address as postgres://user@host/name; it is only read')
  .option('--json', 'the same as JSON')
  .option('--timeout <seconds>', 'how long it may take', seconds, 30)
  .addHelpText('after', example('why library.kin "Loan(7)" --as "Player(3)" --db library.db'))
  .action(whyOnDatabase);

program
  .command('import-rows')
  .description(
    'put the lines of a CSV file, or of one with a JSON object in each line, in as rows; where a line is refused nothing stays, and it ends with 1',
  )
  .argument('<file>', 'a .kin text')
  .argument('<entity>', 'what the lines are rows of')
  .argument('<lines>', 'the file with the lines: CSV, or JSON lines where it ends in .jsonl, .ndjson or .json')
  .requiredOption('--db <database>', 'a SQLite file, or an address as postgres://user@host/name; its rows are changed')
  .option(
    '--map <column=use...>',
    'what a column is, where its name does not say: a field, a role by its key (branch), by a field (branch.name) or “branch as shown”, “the kind”, “left out”',
  )
  .addOption(new Option('--form <form>', 'what the file is, where its name does not say').choices(['csv', 'json lines']))
  .option('--delimiter <text>', 'what stands between the values of CSV, where the first line does not tell')
  .option('--nothing <text>', 'the text that stands for nothing', '')
  .addOption(
    new Option('--there <what>', 'what is done with a line whose row is there')
      .choices(['refuse', 'skip', 'update'])
      .default('refuse'),
  )
  .option('--as <actor>', 'on whose behalf: a row as in "Player(3)", nobody, or system, which may write all rows')
  .option('--match <names...>', 'the fields and roles by which a row that is there is told; else its key, or a unique')
  .option('--good-ones', 'put the good lines in though others are refused')
  .option('--refused <file>', 'the same, and write the lines that are refused to a file, each with the reason')
  .option('--rehearse', 'put them in, tell what came of it, and take all of it back')
  .option('--json', 'what came of it as JSON')
  .option('--timeout <seconds>', 'how long a step of it may take', seconds, 30)
  .addHelpText(
    'after',
    `${example('import-rows library.kin Player players.csv --db library.db --map "home=branch.name" --rehearse')}\n  $ family-tree import-rows library.kin Card cards.jsonl --db library.db --there update --match number --refused left.jsonl`,
  )
  .action(importRows);

program
  .command('export-rows')
  .description('write rows as lines of CSV, or a JSON object each, to standard output')
  .argument('<file>', 'a .kin text')
  .argument('<rows>', 'an entity, or one with a condition: Player[town = …]')
  .requiredOption('--db <database>', 'a SQLite file, or an address as postgres://user@host/name; it is only read')
  .option(
    '--columns <uses...>',
    'the columns: fields, roles by their keys (branch), by a field (branch.name) or “branch as shown”, “the kind”; all that put rows in again where none is named',
  )
  .option('--order <order>', 'as behind “order by”; that of the key where nothing is said', '')
  .addOption(new Option('--form <form>', 'what is written').choices(['csv', 'json lines']).default('csv'))
  .option('--delimiter <text>', 'what stands between the values of CSV', ',')
  .option('--nothing <text>', 'the text of CSV that stands for nothing', '')
  .option('--out <file>', 'write it to a file')
  .option('--timeout <seconds>', 'how long a step of it may take', seconds, 30)
  .addHelpText(
    'after',
    example(`export-rows library.kin "Player[steward]" --columns name email "branch as shown" --db library.db > stewards.csv`),
  )
  .action(exportRows);

program
  .command('read-log')
  .description('what the statement log of an application says, held against a text; nothing of it is run')
  .argument('<file>', 'a .kin text')
  .argument('<log>', 'plain SQL, a line each, or the log of a PostgreSQL or MariaDB server; - for standard input')
  .option('--json', 'the report as JSON')
  .addHelpText('after', example('read-log library.kin statements.log'))
  .action(readLog);

program
  .command('import')
  .description('write the text of a database to standard output, and what it does not say to standard error')
  .argument('<database>', 'a SQLite file, a SQL script that ends in .sql, or an address; it is only read')
  .option('--schema <name...>', 'of a server: these schemas alone')
  .option('--table <name...>', 'of a server: these tables alone; * stands for anything')
  .addOption(new Option('--dialect <name>', 'of a script: what it was written for').choices(Object.keys(dialects)))
  .option('--on <address>', 'of a script: the server to run it on, in a scratch database')
  .option('--follow <file>', 'a .kin text of this database: write it with what has changed in the database since')
  .addHelpText(
    'after',
    `${example('import shop.db > shop.kin')}\n  $ family-tree import postgres://me@localhost/shop --schema public > shop.kin\n  $ family-tree import shop.db --follow shop.kin > next.kin`,
  )
  .action(async (database: string, options: ImportOptions) => {
    const { follow } = options;
    const scratch = await mkdtemp(join(tmpdir(), 'family-tree-'));
    try {
      const brought = await broughtFrom(database, options, scratch);
      if (!brought.ok) {
        process.exitCode = 1;
        process.stderr.write(`${brought.problem.message}\n`);
        return;
      }
      const { text, summary, kept, report, copied, script } = brought.value;
      if (follow !== undefined && brought.value.existing.dialect !== fileEngine.dialect)
        throw new Error(
          `--follow works on ${fileEngine.title} only as yet: a server’s database is followed on the page, under Origin.`,
        );
      if (follow !== undefined) {
        const followed = await followDatabase(await readText(follow), brought.value, join(scratch, 'text.db'));
        if (!followed.ok) throw new Error(followed.problem.message);
        process.stdout.write(followed.value.text);
        printChanges(followed.value.changes);
        return;
      }
      process.stdout.write(text);
      process.stderr.write(`${summary.was}: ${summary.became}\n`);
      if (copied !== null) process.stderr.write(`A copy was looked at: ${copied}.\n`);
      printScript(script);
      printList('Kept as SQL, since the notation has no word for it:', kept);
      printList('Not carried:', report);
    } finally {
      await rm(scratch, { recursive: true, force: true });
    }
  });

program
  .command('copy')
  .description('copy some rows of a database into a new SQLite file, with all that they point at, so that every relation holds')
  .argument('<file>', 'the .kin text of the database')
  .argument('<database>', 'its address, or a SQLite file; it is only read')
  .argument('<target>', 'the SQLite file to make')
  .option('--rows <number>', 'how many rows of each table to begin with', count, 100)
  .addHelpText('after', example('copy shop.kin postgres://me@localhost/shop shop.db --rows 200'))
  .action((file: string, database: string, target: string, { rows }: { rows: number }) => copyRows(file, database, target, rows));

program
  .command('serve')
  .description('start the workbench')
  .option('--data <folder>', 'where trees and databases are kept', './data')
  .option('--host <address>', 'the address to listen on', '127.0.0.1')
  .option('--port <number>', 'the port to listen on', port, 4180)
  .option('--token <text>', 'what a browser must show; required beyond this machine')
  .option('--upload-limit <megabytes>', 'the largest database that may be uploaded', count, 1024)
  .option('--folder <folder>', 'whose .kin files may be opened, and databases and scripts brought in where they lie')
  .option('--live <file>', 'no workbench: the live endpoint of a .kin text alone, over the database of --db')
  .option('--db <database>', 'with --live: a SQLite file, or an address as postgres://user@host/name; it is written to')
  .option('--schema <name...>', 'with --live: the schemas of the database that are the text’s')
  .option('--cors <origin...>', 'with --live: the origins whose pages may ask')
  .option('--rate <number>', 'with --live: how many requests of one address are let in within a second', count, 2000)
  .addHelpText('after', example('serve --live library.kin --db library.db --port 4200'))
  .action(async (options: ServeFlags & ServeLiveFlags & { readonly live?: string }) => {
    if (options.live === undefined) return serveWith(options, null);
    return (await import('./serve-live.js')).serveTextLive(options.live, options);
  });

program
  .command('open')
  .description('start the workbench with a .kin file of your own: what you change there is saved to it, and the other way round')
  .argument('<file>', 'a .kin text')
  .option('--data <folder>', 'where revisions and scratch databases are kept', join(homedir(), '.family-tree'))
  .option('--host <address>', 'the address to listen on', '127.0.0.1')
  .option('--port <number>', 'the port to listen on', port, 4180)
  .option('--token <text>', 'what a browser must show; required beyond this machine')
  .option('--upload-limit <megabytes>', 'the largest database that may be uploaded', count, 1024)
  .addHelpText('after', example('open schema/library.kin'))
  .action((file: string, options: ServeFlags) => serveWith({ ...options, folder: dirname(resolve(file)) }, file));

interface MakeFlags {
  readonly force?: boolean;
  readonly agree?: boolean;
  readonly evenSo?: boolean;
}

interface ServeFlags {
  readonly data: string;
  readonly host: string;
  readonly port: number;
  readonly token?: string;
  readonly uploadLimit: number;
  readonly folder?: string;
}

async function serveWith(options: ServeFlags, open: string | null): Promise<void> {
  process.umask(0o077);
  const { serve } = await import('../server/index.js');
  const serving = await serve({
    data: options.data,
    host: options.host,
    port: options.port,
    token: options.token ?? process.env.FAMILY_TREE_TOKEN ?? null,
    uploadLimit: options.uploadLimit * 1024 * 1024,
    folder: options.folder ?? null,
    open,
  });
  // What it made on servers is taken away, and its files are closed. A second signal ends it at once.
  const end = () => {
    process.once('SIGINT', () => process.exit(1));
    setTimeout(() => process.exit(1), LONGEST_CLOSING).unref();
    void serving.close().finally(() => process.exit(0));
  };
  process.once('SIGINT', end);
  process.once('SIGTERM', end);
}

const LONGEST_CLOSING = 15_000;

// Whoever reads may have enough of it, as `head` has: then nobody is to be told.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') process.stderr.write(`The output could not be written: ${error.message}\n`);
  process.exit(error.code === 'EPIPE' ? 0 : 1);
});

program.parseAsync().catch((error: unknown) => {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exitCode = 1;
});
