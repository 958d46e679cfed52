import { readDesign, statedSqlOf } from '../core/design/index.js';
import { powersOf } from '../engines/index.js';
import { fillDatabase } from '../services/index.js';
import { agreeToSql } from './agree.js';
import { accessTo, openGiven } from './place.js';
import { mayGoOn, printMade, readText } from './report.js';

const LONGEST_MAKE = 120_000;

/** Makes a text's tables and samples in an empty database on a server. @throws with words for a person */
export async function makeAt(
  file: string,
  address: string,
  { agreed, evenSo }: { readonly agreed: boolean; readonly evenSo: boolean },
): Promise<void> {
  const { engine, close } = await openGiven(address, LONGEST_MAKE);
  try {
    const design = readDesign(await readText(file), engine.dialect);
    if (!mayGoOn(file, design, 'made', evenSo)) return;
    const looked = await engine.introspect();
    if (!looked.ok) throw new Error(looked.problem.message);
    const { tables } = looked.value.schema;
    if (tables.length > 0)
      throw new Error(
        `${address} has ${tables.length} tables already (${tables[0]?.name.name}, …). Name an empty database: nothing that is there is changed.`,
      );
    const isAsked = statedSqlOf(design.model, design.dialect.name).length > 0 && !address.endsWith(':embedded');
    const powers = isAsked ? await powersOf(await accessTo(address, LONGEST_MAKE)) : null;
    await agreeToSql(design, address, powers, agreed);
    const made = await fillDatabase(design, engine);
    if (!made.ok) throw new Error(made.problem.message);
    printMade(address, made.value);
  } finally {
    await close();
  }
}
