import busboy from 'busboy';
import { Router, type Request } from 'express';
import Joi from 'joi';
import { fileTypes } from '../../core/table/infer';
import { Problem, valid } from '../http/problems';
import type { Visit } from '../gate/view-sql';
import type { Source } from '../sources/source';
import { fileToTable, previewFile, type TablePlan } from './file-to-table';

const largest = 30 * 1024 * 1024;
const identifier = Joi.string().pattern(/^[a-z][a-z0-9_]{0,63}$/, 'lower-case letters, digits and _').required();
const planSchema = Joi.object<TablePlan>({
  name: identifier,
  columns: Joi.array().items(Joi.object({
    header: Joi.string().max(1000).required(), name: identifier, type: Joi.valid(...fileTypes).required(), nullable: Joi.boolean().strict().required(),
    maxLength: Joi.number().integer().min(1).max(4000), precision: Joi.number().integer().min(1).max(65), scale: Joi.number().integer().min(0).max(30),
  })).min(1).max(300).required(),
});

/** Files that builders bring into the product's own database. `openSource` gives the portal's source when it may take tables. */
export function fileRoutes(openSource: (req: Request) => Promise<{ source: Source; catalogue: Visit['catalogue'] }>): Router {
  const router = Router({ mergeParams: true });
  router.post('/files/preview', async (req, res) => {
    await openSource(req);
    const { file } = await readForm(req);
    res.json(previewFile(file));
  });
  router.post('/files/table', async (req, res) => {
    const { source, catalogue } = await openSource(req);
    const { file, plan } = await readForm(req);
    const rows = await fileToTable(source, catalogue, file, valid(planSchema, readJson(plan)));
    res.status(201).json({ rows });
  });
  return router;
}

function readJson(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    throw new Problem(400, 'invalid-input', 'The plan of the table can\'t be read.');
  }
}

/** One file and at most one field, as multipart/form-data (RFC 7578). */
function readForm(req: Request): Promise<{ file: Buffer; plan: string }> {
  return new Promise((resolve, reject) => {
    let form: busboy.Busboy;
    try {
      form = busboy({ headers: req.headers, limits: { files: 1, fields: 1, fileSize: largest, fieldSize: 1_000_000 } });
    } catch {
      reject(new Problem(415, 'unreadable', 'Send the file as a form.'));
      return;
    }
    const parts: Buffer[] = [];
    let plan = '';
    let named = false;
    form.on('file', (_name, stream) => {
      named = true;
      stream.on('data', (part: Buffer) => parts.push(part));
      stream.on('limit', () => reject(new Problem(413, 'too-large', `The file is larger than ${largest / 1024 / 1024} MB. Divide it.`)));
    });
    form.on('field', (name, value) => { if (name === 'plan') plan = value; });
    form.on('error', () => reject(new Problem(400, 'unreadable', 'The file did not arrive whole. Send it again.')));
    form.on('close', () => (named ? resolve({ file: Buffer.concat(parts), plan }) : reject(new Problem(400, 'invalid-input', 'Choose a file.'))));
    req.pipe(form);
  });
}
