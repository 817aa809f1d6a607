import { parseArgs } from 'node:util';
import { faultWords } from './fault.mjs';
import { Advice } from './install.mjs';

/**
 * Runs a command that stays: reads its options, says its help where that is asked for, and ends with words for people
 * where it can't go on.
 */
export async function command(help, options, work) {
  try {
    const values = readOptions(help, options);
    if (values.help) console.log(help);
    else await work(values);
  } catch (error) {
    console.error(`\n${error instanceof Advice || error?.name === 'Advice' ? error.message : faultWords(error)}`);
    process.exit(1);
  }
}

function readOptions(help, options) {
  try {
    return parseArgs({ options: { ...options, help: { type: 'boolean', default: false } } }).values;
  } catch (error) {
    throw new Advice(`${error.message}\n\n${help}`);
  }
}
