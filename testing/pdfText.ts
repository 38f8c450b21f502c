import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';

/** The text of a PDF, by a reader of other hands. */
export async function pdfText(bytes: Buffer): Promise<string> {
  const loading = getDocument({ data: new Uint8Array(bytes), verbosity: 0 });
  const document = await loading.promise;
  const texts: string[] = [];
  for (let n = 1; n <= document.numPages; n += 1) {
    const { items } = await (await document.getPage(n)).getTextContent();
    texts.push(...items.map((item) => ('str' in item ? item.str : '')));
  }
  await loading.destroy();
  return texts.join(' ').replace(/\s+/g, ' ');
}
