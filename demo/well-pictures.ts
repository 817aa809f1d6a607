import { Random } from '../core/proof/random';

/** A drawing of a well in its ground, 640 by 360, as PNG: the same for the same number. No photograph of anyone's. */
export async function wellPicture(number: number): Promise<Buffer> {
  const { default: sharp } = await import('sharp');
  const random = new Random(number);
  const ground = 130 + random.int(0, 24);
  const layers = ['#8a6f4d', '#a98a5b', '#c2a878', '#7f8c8d'].map((colour, i) => {
    const top = ground + i * 50 + random.int(0, 14);
    const bend = random.int(-16, 16);
    return `<path d="M0 ${top} Q320 ${top + bend} 640 ${top} V360 H0Z" fill="${colour}"/>`;
  });
  const water = ground + 80 + random.int(0, 60);
  const x = 250 + random.int(0, 90);
  const tree = x > 290 ? 110 : 520;
  return sharp(
    Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="640" height="360">
      <rect width="640" height="360" fill="#cfe3ea"/>
      <circle cx="${tree === 110 ? 540 : 90}" cy="54" r="26" fill="#f3d98b"/>
      <path d="M0 ${ground - 40} Q200 ${ground - 76} 640 ${ground - 30} V${ground + 20} H0Z" fill="#a9bf9a"/>
      ${layers.join('')}
      <rect x="${tree - 7}" y="${ground - 70}" width="14" height="76" fill="#6b5137"/>
      <circle cx="${tree}" cy="${ground - 90}" r="${38 + random.int(0, 14)}" fill="#5f8a5b"/>
      <rect x="${x}" y="${ground - 8}" width="60" height="${352 - ground}" fill="#e9e4d8"/>
      <rect x="${x}" y="${water}" width="60" height="${344 - water}" fill="#5b9bb5"/>
      <path d="M${x - 22} ${ground - 8} h104 v-34 h-104z" fill="#9a938a"/>
      <path d="M${x - 30} ${ground - 42} h120 l-22 -34 h-76z" fill="#7d4b3a"/>
      <path d="M${x + 30} ${ground - 8} V${water + 24}" stroke="#51493f" stroke-width="4"/>
    </svg>`),
  )
    .png()
    .toBuffer();
}
