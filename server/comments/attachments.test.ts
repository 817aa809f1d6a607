import { Op } from 'sequelize';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { DiscussedRecord } from '../store/comment-models';
import { Builder, StoredFile } from '../store/models';
import { forgetLooseFiles } from '../files/stored-file';

/** Files that hang on records: known by their bytes, opened by those whom grants let, and gone with the record. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const people: Record<string, Client> = {};
const portal = '/portals/alder-fen';
const bench = '/builder/portals/alder-fen';
let well = '';

const rows = (text: string) => demo.server.services.sources.get('hung').rows(raw(text));
const write = (text: string) => demo.server.services.sources.get('hung').write(raw(text));

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'hung', 'hung_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  [[well]] = (await rows(
    "SELECT MAX(w.id) FROM wells w JOIN owners o ON o.id = w.owner_id WHERE o.email = 'ines.brannock@example.org'",
  )) as [[string]];
  well = String(well);
  const [[heir]] = (await rows(
    "SELECT email FROM owners WHERE email LIKE '%@example.org' AND email <> 'ines.brannock@example.org' LIMIT 1",
  )) as [[string]];
  for (const [name, email] of [
    ['ines', 'ines.brannock@example.org'],
    ['mara', 'mara.lindqvist@example.org'],
    ['odile', 'odile.fennimore@example.org'],
    ['heir', heir],
  ] as const) {
    people[name] = demo.client();
    expect((await people[name].post(`${portal}/sign-in`, { email, password: demoPassword })).status).toBe(200);
  }
});
afterAll(async () => demo?.server.close());

const at = (id = well) => `${portal}/records/wells/${id}/attachments`;

async function add(who: string, name: string, bytes: Uint8Array, circle = 'forAll', id = well) {
  const form = new FormData();
  form.append('file', new Blob([bytes as Uint8Array<ArrayBuffer>]), name);
  const { status, body } = await people[who]!.form(`${at(id)}?circle=${circle}`, form);
  return { status, id: body?.id as number, detail: body?.detail as string };
}

interface Told {
  id: number;
  mine: boolean;
  name: string | null;
  role: string;
  circle: string;
  file: string | null;
  type: string;
  hasSmall: boolean;
  deletable: boolean;
}

const filesOf = async (who: string, id = well) => {
  const { status, body } = await people[who]!.get(at(id));
  return { status, files: (body.files ?? []) as Told[], writes: body.writes as string[] };
};
const namesOf = async (who: string) => (await filesOf(who)).files.map(({ file }) => file);

async function bytesOf(who: string, path: string) {
  const answer = await fetch(`${demo.base}/api${path}`, { headers: people[who]!.headers() });
  return { status: answer.status, headers: answer.headers, bytes: Buffer.from(await answer.arrayBuffer()) };
}

const picture = (width: number, height: number) =>
  sharp({ create: { width, height, channels: 3, background: '#5b9bb5' } });

describe('files on records', () => {
  it('are added and opened by those of the circle; nobody else finds them by their numbers', async () => {
    const before = await namesOf('ines');
    const pump = await add('ines', 'pump.png', await picture(800, 600).png().toBuffer());
    const inner = await add('odile', 'among.txt', Buffer.from('for the desk'), 'amongUs');
    expect([pump.status, inner.status]).toEqual([201, 201]);
    expect(await namesOf('ines')).toEqual(['pump.png', ...before]);
    expect((await filesOf('odile')).files.slice(0, 2).map(({ file, name, mine }) => [file, name, mine])).toEqual([
      ['among.txt', 'Odile Fennimore', true],
      ['pump.png', 'Ines Brannock', false],
    ]);
    expect((await filesOf('ines')).writes).toEqual(['forAll']);
    expect((await add('ines', 'x.txt', Buffer.from('x'), 'amongUs')).status).toBe(403);
    // Samplers are granted no files on wells; others' wells are nobody's: the same as a record that never was.
    for (const who of ['mara', 'heir']) {
      expect([who, (await filesOf(who)).status]).toEqual([who, 404]);
      for (const part of [`/${pump.id}`, `/${pump.id}/small`])
        expect([who, (await bytesOf(who, at() + part)).status]).toEqual([who, 404]);
      expect((await add(who, 'x.txt', Buffer.from('x'))).status).toBe(404);
      expect((await bytesOf(who, `${portal}/records/wells/${well}/picture`)).status).toBe(404);
    }
    expect((await bytesOf('ines', `${at()}/${inner.id}`)).status).toBe(404);
    const other = (await rows(
      "SELECT MIN(w.id) FROM wells w JOIN owners o ON o.id = w.owner_id WHERE o.email = 'ines.brannock@example.org'",
    )) as [[string]];
    expect((await bytesOf('ines', `${at(String(other[0][0]))}/${pump.id}`)).status).toBe(404);
    expect((await demo.client().get(at())).status).toBe(401);
    // Taken out by whoever added it, or may take out any.
    const takeOut = async (who: string, id: number) => (await people[who]!.send('DELETE', `${at()}/${id}`)).status;
    const desks = await add('odile', 'letter.txt', Buffer.from('Dear Ines'));
    expect([await takeOut('ines', desks.id), await takeOut('ines', inner.id)]).toEqual([403, 404]);
    expect([await takeOut('odile', pump.id), await takeOut('odile', pump.id)]).toEqual([204, 404]);
    expect([await takeOut('odile', desks.id), await takeOut('odile', inner.id)]).toEqual([204, 204]);
    expect(await namesOf('odile')).toEqual(before);
  });

  it('are sent so that a browser does nothing with them but show a picture or save it', async () => {
    const png = await add('ines', 'well.png', await picture(1200, 900).png().toBuffer());
    const page = await add('ines', 'note.txt', Buffer.from('<script>alert(1)</script>'));
    const shown = await bytesOf('ines', `${at()}/${png.id}`);
    expect([shown.headers.get('content-type'), shown.headers.get('content-disposition')]).toEqual([
      'image/png',
      "inline; filename*=UTF-8''well.png",
    ]);
    const saved = await bytesOf('ines', `${at()}/${page.id}`);
    expect([
      saved.headers.get('content-type'),
      saved.headers.get('content-disposition'),
      saved.headers.get('x-content-type-options'),
      saved.headers.get('content-security-policy'),
    ]).toEqual([
      'application/octet-stream',
      "attachment; filename*=UTF-8''note.txt",
      'nosniff',
      "default-src 'none'; sandbox; frame-ancestors 'none'",
    ]);
    const small = await bytesOf('ines', `${at()}/${png.id}/small`);
    const { width, height, format } = await sharp(small.bytes).metadata();
    expect([small.headers.get('content-type'), format, width, height]).toEqual(['image/webp', 'webp', 480, 360]);
    expect((await bytesOf('ines', `${at()}/${page.id}/small`)).status).toBe(404);
    // A card shows the newest picture.
    const card = await bytesOf('ines', `${portal}/records/wells/${well}/picture`);
    expect(card.bytes.equals(small.bytes)).toBe(true);
  });

  it('lose the place and the camera, and stand upright', async () => {
    const exif = { IFD0: { Make: 'Porchcam' }, IFD3: { GPSLatitude: '52/1 30/1 0/1' } };
    const sent = await picture(60, 40).jpeg().withMetadata({ orientation: 6 }).withExif(exif).toBuffer();
    expect([sent.includes('Porchcam'), (await sharp(sent).metadata()).orientation]).toEqual([true, 6]);
    const { id } = await add('ines', 'IMG 0001.JPG', sent);
    const { bytes } = await bytesOf('ines', `${at()}/${id}`);
    const { exif: kept, width, height } = await sharp(bytes).metadata();
    expect([kept, bytes.includes('Porchcam'), width, height]).toEqual([undefined, false, 40, 60]);
  });

  it('are refused by what they hold, with a word on what to send instead', async () => {
    // The smallest ZIP there is: its end, of no entries (APPNOTE 4.3.16).
    const zip = Buffer.concat([Buffer.from('504b0506', 'hex'), Buffer.alloc(18)]);
    const png = await picture(20, 20).png().toBuffer();
    const heic = Buffer.concat([Buffer.from([0, 0, 0, 24]), Buffer.from('ftypheic\0\0\0\0mif1heic'), Buffer.alloc(40)]);
    const cases: [string, Buffer, RegExp][] = [
      ['well.png', zip, /not of a kind that is taken/],
      ['well.pdf', png, /holds PNG, and its name says something else/],
      ['well.svg', Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"/>'), /not of a kind/],
      ['page.html', Buffer.from('<p>hello</p>'), /not of a kind/],
      ['run.exe', Buffer.from('MZ\u0090\0\u0003'), /not of a kind/],
      ['photo.heic', heic, /HEIC.*Send it as JPEG/],
      ['half.png', png.subarray(0, 60), /can't be read as a picture/],
      ['wide.png', await picture(10_000, 6000).png().toBuffer(), /has 60 megapixels; 50 are taken/],
      ['empty.txt', Buffer.alloc(0), /is empty/],
      ['bits.txt', Buffer.from([65, 0, 66]), /not of a kind/],
    ];
    const before = await namesOf('ines');
    for (const [name, bytes, words] of cases) {
      const { status, detail } = await add('ines', name, bytes);
      expect([name, status, detail]).toEqual([name, 422, expect.stringMatching(words)]);
    }
    expect((await add('ines', 'large.txt', Buffer.alloc(26 * 1024 * 1024, 65))).status).toBe(413);
    // Nothing half-written stays.
    expect(await namesOf('ines')).toEqual(before);
    expect(await StoredFile.count({ where: { purpose: 'record', goneAt: { [Op.ne]: null } } })).toBe(0);
    // A name can't lead anywhere or hide what it is.
    const { id } = await add('ines', '../../etc/well\u202egnp.txt', Buffer.from('x'));
    expect((await filesOf('ines')).files.find((each) => each.id === id)!.file).toBe('wellgnp.txt');
  });

  it('of a former owner stay theirs', async () => {
    const before = await namesOf('ines');
    const give = (owner: string) =>
      write(`UPDATE wells SET owner_id = (SELECT id FROM owners WHERE ${owner} LIMIT 1) WHERE id = ${well}`);
    await give("email LIKE '%@example.org' AND email <> 'ines.brannock@example.org'");
    expect([(await filesOf('heir')).status, await namesOf('heir')]).toEqual([200, []]);
    expect((await bytesOf('heir', `${portal}/records/wells/${well}/picture`)).status).toBe(204);
    await give("email = 'ines.brannock@example.org'");
    expect(await namesOf('ines')).toEqual(before);
  });

  it('are looked at in Seen by and not changed; without sight of personal data not even that', async () => {
    const { members } = (await builder.get(`${bench}/members?search=ines.brannock`)).body as {
      members: { id: number }[];
    };
    const seen = `${bench}/as/${members[0]!.id}/records/wells/${well}`;
    const { body } = await builder.get(`${seen}/attachments`);
    expect(body.files.map(({ file }: Told) => file)).toEqual(await namesOf('ines'));
    const [first] = body.files as Told[];
    expect((await builder.get(`${seen}/attachments/${first!.id}`)).status).toBe(200);
    expect((await builder.send('DELETE', `${seen}/attachments/${first!.id}`)).status).toBe(403);
    await Builder.update({ seesPersonal: false }, { where: {} });
    const unseen = (await builder.get(`${seen}/attachments`)).body.files as Told[];
    expect(new Set(unseen.map(({ file, type, hasSmall }) => `${file} ${type} ${hasSmall}`))).toEqual(
      new Set(['null  false']),
    );
    expect((await builder.get(`${seen}/attachments/${first!.id}`)).status).toBe(404);
    expect((await builder.get(`${seen}/picture`)).status).toBe(204);
    await Builder.update({ seesPersonal: true }, { where: {} });
  });

  it('are forgotten with their record, and no others', async () => {
    const kept = async () => (await StoredFile.findAll({ where: { purpose: 'record' } })).length;
    const all = await kept();
    const here = (await filesOf('odile')).files.length;
    expect(here).toBeGreaterThanOrEqual(3);
    await forgetLooseFiles(demo.server.services.store.sequelize);
    expect(await kept()).toBe(all);
    await DiscussedRecord.destroy({ where: { tableName: 'wells', recordKey: well } });
    await forgetLooseFiles(demo.server.services.store.sequelize);
    expect([await kept(), (await filesOf('odile')).files]).toEqual([all - here, []]);
  });
});
