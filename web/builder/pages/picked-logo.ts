import { logoProblem } from '../../../core/face/logo';

const widest = 480;
const highest = 160;

/**
 * A picture that somebody chose as a logo: drawn anew, small enough for a door. Throws with words where the browser
 * can't read it, or where it stays too large.
 */
export async function pickedLogo(file: File): Promise<string> {
  const picture = await createImageBitmap(file).catch(() => {
    throw new Error(`${file.name} is no picture that can be read. Choose a PNG, JPEG or WebP file.`);
  });
  const { width, height } = picture;
  // Fine detail takes room: a smaller one is tried before it is refused.
  for (const share of [1, 0.7, 0.5, 0.35]) {
    const by = Math.min(1, (widest / width) * share, (highest / height) * share);
    const canvas = document.createElement('canvas');
    canvas.width = Math.max(1, Math.round(width * by));
    canvas.height = Math.max(1, Math.round(height * by));
    canvas.getContext('2d')!.drawImage(picture, 0, 0, canvas.width, canvas.height);
    const text = canvas.toDataURL('image/png');
    if (logoProblem(text) === null) return text;
  }
  throw new Error(`${file.name} has too much in it for a logo. Choose a plainer picture.`);
}
