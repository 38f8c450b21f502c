/** The mark before each file in a ZIP (APPNOTE 4.3.7). */
const MARK = [0x50, 0x4b, 0x03, 0x04];

/**
 * Reads a ZIP as it comes, and tells of each file in it. A mark may lie across two pieces.
 * @param onFile how many files have begun so far
 */
export async function readZip(
  stream: ReadableStream<Uint8Array>,
  onFile: (files: number) => void,
): Promise<Blob> {
  const pieces: BlobPart[] = [];
  const reader = stream.getReader();
  let matched = 0;
  let files = 0;
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    pieces.push(value.slice());
    const before = files;
    for (const byte of value) {
      matched = byte === MARK[matched] ? matched + 1 : byte === MARK[0] ? 1 : 0;
      if (matched < MARK.length) continue;
      files += 1;
      matched = 0;
    }
    if (files !== before) onFile(files);
  }
  return new Blob(pieces, { type: 'application/zip' });
}
