import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { openSync, type Font } from 'fontkit';
import pdfmake from 'pdfmake';
import type { TDocumentDefinitions } from 'pdfmake/interfaces.js';
import type { PrintedLook } from './printed.ts';

const { resolve } = createRequire(import.meta.url);
const fontFile = (family: string, name: string) =>
  join(dirname(resolve(`@expo-google-fonts/${family}/package.json`)), name);

/** The business's own type, and one that has Greek and Cyrillic too, for documents that need them. */
const FONTS = [
  {
    normal: fontFile('public-sans', '400Regular/PublicSans_400Regular.ttf'),
    bold: fontFile('public-sans', '600SemiBold/PublicSans_600SemiBold.ttf'),
  },
  {
    normal: fontFile('noto-sans', '400Regular/NotoSans_400Regular.ttf'),
    bold: fontFile('noto-sans', '600SemiBold/NotoSans_600SemiBold.ttf'),
  },
] as const;

// Nothing is fetched, and no file but the fonts is read: pictures come as data.
pdfmake.setUrlAccessPolicy(() => false);
pdfmake.setLocalAccessPolicy((path: string) =>
  FONTS.some(({ normal, bold }) => path === normal || path === bold),
);

let signs: ReadonlySet<number> | undefined;

/** Whether the first font has all signs of some texts. */
function hasAllSigns(texts: string): boolean {
  signs ??= new Set((openSync(FONTS[0].normal) as Font).characterSet);
  for (const sign of texts) {
    const code = sign.codePointAt(0) ?? 0;
    if (code > 0x7e && !signs.has(code)) return false;
  }
  return true;
}

/** Prints what is laid out as PDF: the same is the same to the byte. */
export async function printPdf(
  layOut: (look: PrintedLook) => TDocumentDefinitions,
  look: PrintedLook,
): Promise<Uint8Array> {
  try {
    return await print(layOut(look));
  } catch (error) {
    // A picture that cannot be drawn keeps nobody from their invoice.
    if (look.logo === null) throw error;
    return print(layOut({ ...look, logo: null }));
  }
}

async function print(definition: TDocumentDefinitions): Promise<Uint8Array> {
  const { footer: _, ...written } = definition;
  const [first, second] = FONTS;
  const font = hasAllSigns(JSON.stringify(written)) ? first : second;
  pdfmake.setFonts({ Text: font });
  return new Uint8Array(await pdfmake.createPdf(definition).getBuffer());
}
