import { settleHalfDone } from '../services/index.js';
import { openGiven } from './place.js';
import { whyNot } from './rehearse.js';
import { told } from './with-plan.js';

export interface SettleOptions {
  readonly timeout: number;
}

/** Finishes a plan that was left half done in a database, or takes it back. @throws with words for a person */
export async function settleDatabase(database: string, way: 'finish' | 'take-back', { timeout }: SettleOptions): Promise<void> {
  const { engine, close } = await openGiven(database, timeout * 1000, 'write');
  try {
    const settled = told(await settleHalfDone(engine, way === 'finish' ? 'finish' : 'take back'));
    switch (settled.kind) {
      case 'applied':
        process.stdout.write(`Finished, as number ${settled.number} of the history.\n`);
        break;
      case 'taken back':
        process.stdout.write(`“${settled.name}” was taken back: the database is as it was before.\n`);
        break;
      case 'nothing left':
        process.stdout.write('No plan was left half done here.\n');
        break;
      case 'moved':
      case 'dangling':
      case 'unlike':
      case 'left':
        throw new Error(whyNot(settled));
    }
  } finally {
    await close();
  }
}
