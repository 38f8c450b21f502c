import { contrastOf } from '../../../server/branding/messages.ts';

/** Parts whose contrast with the ground is below this cannot be told from it. */
const LEAST_CONTRAST = 1.35;
const SIDE = 96;

/** The share of a picture's drawn parts, 0 to 1, that vanish on a ground; 0 where the picture cannot be read. */
export async function shareThatVanishes(path: string, ground: string): Promise<number> {
  const picture = new Image();
  picture.src = path;
  try {
    await picture.decode();
  } catch {
    return 0;
  }
  const canvas = document.createElement('canvas');
  canvas.width = SIDE;
  canvas.height = SIDE;
  const drawing = canvas.getContext('2d', { willReadFrequently: true });
  if (!drawing) return 0;
  drawing.drawImage(picture, 0, 0, SIDE, SIDE);
  const { data } = drawing.getImageData(0, 0, SIDE, SIDE);
  let drawn = 0;
  let lost = 0;
  const known = new Map<string, boolean>();
  for (let i = 0; i < data.length; i += 4) {
    const opacity = (data[i + 3] ?? 0) / 255;
    if (opacity < 0.2) continue;
    // Near colours count as one, so that few contrasts are computed.
    const colour = `rgb(${[0, 1, 2].map((k) => (data[i + k] ?? 0) & 0xf8).join(', ')})`;
    const vanishes = known.get(colour) ?? contrastOf(colour, ground) < LEAST_CONTRAST;
    known.set(colour, vanishes);
    drawn += opacity;
    if (vanishes) lost += opacity;
  }
  return drawn === 0 ? 1 : lost / drawn;
}
