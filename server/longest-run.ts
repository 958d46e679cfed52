/** Where a person says how long a query may run, in seconds. */
const VARIABLE = 'FAMILY_TREE_LONGEST_RUN';
const SECONDS = 15;

/**
 * How long a query, a command or the making of rows may take before it is ended, in milliseconds: 15 seconds, or as many as the
 * surroundings say. The processes of the server have the same surroundings, so that all keep to one limit.
 *
 * @throws where what they say is no number of seconds
 */
function longestRun(): number {
  const said = process.env[VARIABLE];
  const seconds = said === undefined || said === '' ? SECONDS : Number(said);
  if (!(seconds >= 1 && seconds <= 86_400))
    throw new Error(`${VARIABLE} is a number of seconds from 1 to 86400, and not “${said}”.`);
  return seconds * 1000;
}

export const LONGEST_RUN = longestRun();
