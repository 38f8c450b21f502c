import { expect, test } from 'vitest';
import { readZip } from './readZip.ts';

test('a ZIP that comes in pieces is told of file by file, wherever it was cut', async () => {
  const file = (text: string) => [0x50, 0x4b, 0x03, 0x04, ...new TextEncoder().encode(text)];
  // One begins like a mark and is none.
  const bytes = new Uint8Array([...file('one'), ...file('PK two'), 0x50, 0x4b, 0x50, 0x4b, 0x03, 0x04, 7]);
  for (let size = 1; size <= bytes.length; size += 1) {
    const told: number[] = [];
    const stream = new ReadableStream<Uint8Array>({
      start(controller) {
        for (let at = 0; at < bytes.length; at += size) controller.enqueue(bytes.subarray(at, at + size));
        controller.close();
      },
    });
    const blob = await readZip(stream, (files) => told.push(files));
    expect(new Uint8Array(await blob.arrayBuffer())).toEqual(bytes);
    expect(told.at(-1), `in pieces of ${size}`).toBe(3);
    expect(told).toEqual([...told].sort((a, b) => a - b));
  }
});
