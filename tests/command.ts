import { programFile } from '../engines/program-file.js';

const file = programFile('cli/main');

/** What Node is given to run the command as a person does: as it is built for a run of the tests, or else as source. */
export const COMMAND: readonly string[] = file.endsWith('.ts') ? ['--import', 'tsx', file] : [file];
