import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { openSync, type Font } from 'fontkit';
import pdfmake from 'pdfmake';
import type { TDocumentDefinitions } from 'pdfmake/interfaces.js';
import type { PrintedLook } from './printed.ts';

const { resolve } = createRequire(import.meta.url);
const fontFile = (family: string, name: string) =>
  join(dirname(resolve(`@expo-google-fonts/${family}/package.json`)), name);

/**
 * The business's own type; one that has Greek, Cyrillic and Vietnamese too; and one with all other signs that there are, which is
 * read much more slowly: its tables are many times as large. A document is printed in the first that has all of its signs.
 */
const FONTS = [
  {
    normal: fontFile('public-sans', '400Regular/PublicSans_400Regular.ttf'),
    bold: fontFile('public-sans', '600SemiBold/PublicSans_600SemiBold.ttf'),
  },
  {
    normal: fontFile('open-sans', '400Regular/OpenSans_400Regular.ttf'),
    bold: fontFile('open-sans', '600SemiBold/OpenSans_600SemiBold.ttf'),
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

const signsOf = new Map<string, ReadonlySet<number>>();

/** Whether a font has all signs of some texts. */
function hasAllSigns(font: string, texts: string): boolean {
  const signs = signsOf.get(font) ?? new Set((openSync(font) as Font).characterSet);
  signsOf.set(font, signs);
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
  const texts = JSON.stringify(written);
  const font = FONTS.find(({ normal }) => hasAllSigns(normal, texts)) ?? FONTS[2];
  pdfmake.setFonts({ Text: font });
  return new Uint8Array(await pdfmake.createPdf(definition).getBuffer());
}
