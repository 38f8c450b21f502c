import { randomBytes } from 'node:crypto';
import type { Express } from 'express';
import type { Transaction } from 'sequelize';
import sharp from 'sharp';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { RefusedCommand, sendProblem } from '../http/problem.ts';
import { outsideOfLoop } from '../parsing/outsideOfLoop.ts';

/** What an upload may weigh, and how large a picture is kept. */
export const MOST_UPLOAD_BYTES = 1_000_000;
const MOST_PIXELS = 24_000_000;
/** A picture that takes longer to be read or drawn is not taken. */
const DRAWN_WITHIN_SECONDS = 10;
export const MOST_DOCUMENT_BYTES = 5_000_000;
const KEPT_SIDE = { logo: 1200, icon: 512, picture: 1600 } as const;

interface SafePicture {
  readonly mediaType: 'image/png' | 'image/svg+xml';
  readonly bytes: Buffer;
  /** A drawing as pixels too, for mail programs, which show no SVG. */
  readonly png: Buffer | null;
}

/** How an upload is kept: under an address that a file gives it, as part of a transaction. */
interface Kept {
  readonly address?: string;
  readonly within?: Transaction;
}

/** Takes a logo, an icon or a picture: PNG, JPEG, WebP or SVG, made safe, and kept under an address nobody can guess. */
export async function takeUpload(
  almanac: Almanac,
  kind: keyof typeof KEPT_SIDE,
  bytes: unknown,
  name: string,
  kept: Kept = {},
): Promise<{ id: string; address: string }> {
  if (!Buffer.isBuffer(bytes) || bytes.length === 0)
    throw new RefusedCommand(422, 'Choose a picture: PNG, JPEG, WebP or SVG.', '/file');
  await requireRoom(almanac, bytes.length, kept.within);
  const safe = await madeSafe(bytes, KEPT_SIDE[kind]);
  const { address = randomBytes(16).toString('hex'), within } = kept;
  const made = await almanac.db.row<{ id: string }>(
    `insert into uploads (kind, media_type, name, bytes, png, address)
     values ($kind, $mediaType, $name, $bytes, $png, $address)
     returning id::text`,
    { kind, mediaType: safe.mediaType, name: name.slice(0, 200), bytes: safe.bytes, png: safe.png, address },
    within,
  );
  const done = { did: `uploaded a ${kind}`, subject: name, after: { bytes: safe.bytes.length } };
  await recordDone(almanac, done, within);
  return { id: made?.id ?? '', address };
}

/** Takes a document that customers are to read: PDF alone, kept as it is and only ever handed out as a file. */
export async function takeDocument(
  almanac: Almanac,
  bytes: unknown,
  name: string,
  kept: Kept = {},
): Promise<{ id: string; address: string }> {
  if (!Buffer.isBuffer(bytes) || bytes.subarray(0, 5).toString('latin1') !== '%PDF-')
    throw new RefusedCommand(422, 'Choose a PDF.', '/file');
  await requireRoom(almanac, bytes.length, kept.within);
  const { address = randomBytes(16).toString('hex'), within } = kept;
  const made = await almanac.db.row<{ id: string }>(
    `insert into uploads (kind, media_type, name, bytes, address)
     values ('document', 'application/pdf', $name, $bytes, $address) returning id::text`,
    { name: name.slice(0, 200), bytes, address },
    within,
  );
  const done = { did: 'uploaded a document', subject: name, after: { bytes: bytes.length } };
  await recordDone(almanac, done, within);
  return { id: made?.id ?? '', address };
}

/** All uploads of a business together weigh at most so much. */
const MOST_KEPT_BYTES = 500_000_000;

async function requireRoom(almanac: Almanac, bytes: number, within?: Transaction): Promise<void> {
  const kept = await almanac.db.row<{ bytes: string }>(
    'select coalesce(sum(length(bytes) + coalesce(length(png), 0)), 0)::text as bytes from uploads',
    {},
    within,
  );
  if (Number(kept?.bytes ?? 0) + bytes > MOST_KEPT_BYTES)
    throw new RefusedCommand(
      422,
      'There is no room for this: pictures and documents have 500 MB together.',
      '/file',
    );
}

/** A picture that can do no harm: pixels are decoded and written anew; of an SVG only what draws is left. */
export async function madeSafe(bytes: Buffer, side: number): Promise<SafePicture> {
  const start = bytes.subarray(0, 1000).toString('utf8');
  if (/<svg[\s>]/i.test(start) || /^\s*(<\?xml|<!--)/.test(start)) return safeSvg(bytes, side);
  try {
    const picture = sharp(bytes, { limitInputPixels: MOST_PIXELS, failOn: 'error' });
    const { format } = await picture.metadata();
    if (!['png', 'jpeg', 'webp'].includes(format ?? '')) throw new Error(`a ${format}`);
    const written = await picture
      .rotate()
      .resize({ width: side, height: side, fit: 'inside', withoutEnlargement: true })
      .png()
      .timeout({ seconds: DRAWN_WITHIN_SECONDS })
      .toBuffer();
    return { mediaType: 'image/png', bytes: written, png: null };
  } catch {
    throw new RefusedCommand(
      422,
      'This picture cannot be read: it is damaged, too large, or not a PNG, JPEG, WebP or SVG.',
      '/file',
    );
  }
}

async function safeSvg(bytes: Buffer, side: number): Promise<SafePicture> {
  const clean = await outsideOfLoop('cleanSvg', bytes.toString('utf8'));
  if (clean === null)
    throw new RefusedCommand(422, 'Nothing of this SVG could be kept: it holds no drawing.', '/file');
  const drawing = Buffer.from(clean);
  try {
    const png = await sharp(drawing, { limitInputPixels: MOST_PIXELS, density: 144 })
      .resize({ width: side, height: side, fit: 'inside', withoutEnlargement: true })
      .png()
      .timeout({ seconds: DRAWN_WITHIN_SECONDS })
      .toBuffer();
    return { mediaType: 'image/svg+xml', bytes: drawing, png };
  } catch {
    throw new RefusedCommand(422, 'This SVG cannot be drawn: it is damaged or too large.', '/file');
  }
}

/** Serves the pictures. Each is shown as a picture and nothing else. */
export function servePictures(app: Express, almanac: Almanac): void {
  app.get('/pictures/:address', async (request, response) => {
    const [, address = '', asPixels] = /^([0-9a-f]{32})(\.png)?$/.exec(request.params.address) ?? [];
    const found = await almanac.db.row<{ media_type: string; bytes: Buffer; png: Buffer | null }>(
      `select media_type, bytes, png from uploads where address = $address and kind <> 'document'`,
      { address },
    );
    if (!found) return sendProblem(response, 404, 'There is no such picture.');
    response
      .set('Content-Security-Policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox")
      .set('Cache-Control', 'public, max-age=31536000, immutable')
      .set('Cross-Origin-Resource-Policy', 'cross-origin')
      .type(asPixels && found.png ? 'image/png' : found.media_type)
      .send(asPixels && found.png ? found.png : found.bytes);
  });
}

/** Hands out documents: as files to be saved, never shown as a page of ours. */
export function serveDocuments(app: Express, almanac: Almanac): void {
  app.get('/documents/:address', async (request, response) => {
    const found = await almanac.db.row<{ name: string; bytes: Buffer }>(
      `select name, bytes from uploads where address = $address and kind = 'document'`,
      { address: request.params.address },
    );
    if (!found) return sendProblem(response, 404, 'There is no such document.');
    response
      .set('Content-Security-Policy', "default-src 'none'; sandbox")
      .attachment(found.name)
      .type('application/pdf')
      .send(found.bytes);
  });
}

/** The address of a picture on this server, or null. */
export async function pictureOf(almanac: Almanac, id: string | null): Promise<string | null> {
  if (id === null) return null;
  const found = await almanac.db.row<{ address: string }>('select address from uploads where id = $id', {
    id,
  });
  return found ? `/pictures/${found.address}` : null;
}
