import { readDefinition } from '../sections/definition';
import { randomBytes } from 'node:crypto';
import { readFile, writeFile } from 'node:fs/promises';
import { existsSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { DefinitionError, writeDefinition } from '../core/definition/read';
import { changeDraft } from '../server/drafts/draft';
import { admitSources } from '../server/connections/admit-sources';
import { Problem } from '../core/refusals/problem';
import { openServices } from '../server/open-services';
import { normaliseEmail } from '../core/text/email';
import { readBuilderRules, saveBuilderRules } from '../server/sessions/builder-rules';
import { hashPassword } from '../server/sessions/passwords';
import { Builder, Portal } from '../server/store/models';
import { SecondFactor, Session } from '../server/store/people-models';
import { AuditSeals } from '../server/audit/seals';
import { counted } from '../core/text/counted';
import { Advice } from '../core/refusals/advice';
import { faultWords } from './fault.mjs';
import { readDatabase } from './database-address';
import { startMariadb, type LocalMariadb } from './local-mariadb';
import { runningDatabase } from './data-folder';
import { backUp } from './backup';
import { answer, draftOf, pipelineCommands, type PipelineAnswer } from './pipeline';
import { Advice as MissingProgram, installPrograms } from './install.mjs';
import { restore } from './restore';
import { readSecretKey } from './secret-key';
import { readSettings } from './settings';

const help = `npm run portal -- export SLUG [FILE]    writes the draft's definition to FILE, or to the screen
npm run portal -- apply FILE            applies a definition to the draft of the portal that it names; makes the
                                        portal when there is none
npm run portal -- diff|check|test|report FILE|SLUG
                                        holds a definition, or a portal's draft, against what is live: which parts are
                                        other; what the check finds; whether promises are kept; what changes for whom.
                                        Changes nothing. Ends with 0, with 1 where it differs, something is found or
                                        a promise is broken, with 2 where it can't be told. --json gives it all
npm run portal -- builder password EMAIL   gives a builder a new password, prints it once, ends their
                                        sessions and forgets their second factor

npm run portal -- audit --verify        looks at every line of the audit log and its seals; prints the newest seal, to
                                        be kept elsewhere, and ends with 1 where the log is not as it was sealed

npm run portal -- backup FILE           writes all that is kept into one file, while it runs: the product's tables, the
                                        records on the same database server, the key of secrets. Keep it as you would
                                        keep those; what portals connect elsewhere is not in it
npm run portal -- restore FILE          puts a back-up into a data folder that is new (--data DIR), or into the empty
                                        database of STONE_PORCH_DATABASE

  --data DIR   the data folder (data), as for npm start`;

/** Exports and applies definitions from the command line, beside a running Stone Porch or on its own. */
async function main(): Promise<void> {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: {
      data: { type: 'string', default: 'data' },
      help: { type: 'boolean', default: false },
      verify: { type: 'boolean', default: false },
      json: { type: 'boolean', default: false },
    },
  });
  const [command, first, second] = positionals;
  const isPassword = command === 'builder' && first === 'password' && second !== undefined;
  const isProof = command === 'audit' && values.verify;
  const isCopy = command === 'backup' || command === 'restore';
  const asked = pipelineCommands.find((each) => each === command);
  if (asked) failsWith = 2;
  const isOther = command === 'export' || command === 'apply' || isCopy || isPassword;
  const isKnown = (isOther || asked !== undefined) && first !== undefined;
  if (values.help || !(isKnown || isProof)) {
    console.log(help);
    process.exitCode = values.help ? 0 : 1;
    return;
  }
  // Read and checked before anything is opened, so that a broken file touches nothing.
  const isFile = command === 'apply' || (asked !== undefined && existsSync(first!));
  const definition = isFile ? await readFileDefinition(first!) : null;
  readSettings();
  const own = readDatabase();
  const folder = resolve(values.data);
  if (isCopy) installPrograms(['mariadb', 'dump']);
  if (command === 'restore') {
    const { madeAt, schemas } = await restore(first!, folder, own);
    console.log(`Restored ${schemas.join(', ')} as of ${madeAt}. Start it: npm start -- --data ${values.data}`);
    return;
  }
  let local: LocalMariadb | null = null;
  try {
    let address = own?.address ?? runningDatabase(folder);
    if (!address) {
      if (!existsSync(join(folder, 'db')))
        throw new Advice(`There is no data in ${folder}. Run npm start once, or name the folder with --data DIR.`);
      local = await startMariadb(folder, []);
      address = local.address;
    }
    const ownSchema = own?.ownSchema ?? 'stone_porch';
    if (command === 'backup') {
      const key = process.env.STONE_PORCH_KEY === undefined ? join(folder, 'source-key') : null;
      const { schemas } = await backUp(address, ownSchema, first!, key);
      console.log(`Wrote ${schemas.join(', ')} to ${first!}.`);
      return;
    }
    const services = await openServices({
      database: address,
      ownSchema,
      secretKey: readSecretKey(folder),
      privateAddresses: true,
    });
    try {
      if (isProof) await proveAudit(readSecretKey(folder));
      else if (isPassword) await setPassword(second);
      else if (asked) tell(await answer(services, asked, definition ?? (await draftOf(first!))), values.json);
      else if (definition === null) await exportDraft(first!, second);
      else {
        const admit = admitSources({ ...services, ownSchema }, null);
        const known = await Portal.findOne({ where: { slug: definition.portal.slug } });
        if (known)
          await changeDraft(
            services.store.sequelize,
            known.id,
            null,
            known.revision,
            'Apply a definition from the command line',
            [{ op: 'replace', path: '', value: definition }],
            admit,
          );
        else {
          await admit([definition.source, ...Object.values(definition.sources ?? {})]);
          await Portal.create({
            slug: definition.portal.slug,
            draft: JSON.stringify(definition),
            revision: 1,
            publishedVersion: null,
          });
        }
        console.log(`Applied to the draft of ${definition.portal.slug}. Members see it when it is published.`);
      }
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      throw new Advice(command === 'apply' ? `The definition was not applied: ${error.message}` : error.message);
    } finally {
      await services.close();
    }
  } finally {
    await local?.stop();
  }
}

/** What a command that fails ends with. */
let failsWith = 1;

function tell({ lines, json, stops }: PipelineAnswer, asJson: boolean): void {
  console.log(asJson ? JSON.stringify(json, null, 2) : lines.join('\n'));
  if (stops) process.exitCode = 1;
}

/** Says whether the audit log is as it was sealed, and where it is not. */
async function proveAudit(key: Buffer): Promise<void> {
  const { seals, lines, unsealed, head, faults } = await new AuditSeals(key).prove();
  for (const { what, number, at } of faults)
    console.log(`${what === 'seal broken' ? `Seal ${number} is broken` : `Line ${number} is ${what}`}, of ${at}.`);
  console.log(`${counted(lines, 'line')} under ${counted(seals, 'seal')}; ${unsealed} too new to be sealed.`);
  if (head) console.log(`The newest seal: ${head.number} ${head.digest}, of ${head.sealedAt}. Keep it elsewhere.`);
  console.log(faults.length === 0 ? 'The log is as it was sealed.' : 'The log is NOT as it was sealed.');
  if (faults.length > 0) process.exitCode = 1;
}

/** Whoever may run commands on the machine may let a builder in again, whatever stood in the way but a suspension. */
async function setPassword(email: string): Promise<void> {
  const builder = await Builder.findOne({ where: { email: normaliseEmail(email) } });
  if (!builder)
    throw new Advice(
      `There is no builder ${email}. There are: ` +
        `${(await Builder.findAll()).map((each) => each.email).join(', ') || 'none'}.`,
    );
  const password = randomBytes(12).toString('base64url');
  await builder.update({ passwordHash: await hashPassword(password) });
  await Session.destroy({ where: { builderId: builder.id } });
  await SecondFactor.destroy({ where: { builderId: builder.id } });
  const rules = await readBuilderRules();
  if (!rules.methods.includes('password')) {
    await saveBuilderRules({ ...rules, methods: ['password', ...rules.methods] });
    console.log('Those who build could not sign in by a password; they can again.');
  }
  console.log(
    `The password of ${builder.email} is now ${password} (told only now). Who was signed in with the old one ` +
      'is not any more.',
  );
}

async function exportDraft(slug: string, file: string | undefined): Promise<void> {
  const portal = await Portal.findOne({ where: { slug } });
  if (!portal)
    throw new Advice(
      `There is no portal ${slug}. There are: ` +
        `${(await Portal.findAll()).map((each) => each.slug).join(', ') || 'none'}.`,
    );
  const text = writeDefinition(readDefinition(JSON.parse(portal.draft)));
  if (file) await writeFile(file, text);
  else process.stdout.write(text);
}

async function readFileDefinition(file: string) {
  let text: string;
  try {
    text = await readFile(file, 'utf8');
  } catch (error) {
    throw new Advice(`${file} can't be read: ${(error as Error).message}`);
  }
  try {
    return readDefinition(JSON.parse(text));
  } catch (error) {
    if (error instanceof DefinitionError)
      throw new Advice(
        `${file} was not applied:\n` +
          `${error.faults.map((fault) => `  ${fault.place || 'the document'}: ${fault.reason}`).join('\n')}`,
      );
    throw new Advice(`${file} is not JSON: ${(error as Error).message}`);
  }
}

main().catch((error: unknown) => {
  const isAdvice = error instanceof Advice || error instanceof MissingProgram;
  console.error(isAdvice ? error.message : faultWords(error));
  process.exitCode = failsWith;
});
