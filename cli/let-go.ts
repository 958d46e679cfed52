import { letGo } from '../services/index.js';
import { openGiven } from './place.js';
import { told } from './with-plan.js';

/** Lets go of what was kept aside of a plan. @throws with words for a person */
export async function letGoOf(database: string, number: number, { timeout }: { readonly timeout: number }): Promise<void> {
  const { engine, close } = await openGiven(database, timeout * 1000, 'write');
  try {
    const gone = told(await letGo(engine, number));
    process.stdout.write(
      gone.length === 0 ? `Nothing is kept aside of number ${number}.\n` : `Let go of what was kept in ${gone.join(', ')}.\n`,
    );
  } finally {
    await close();
  }
}
