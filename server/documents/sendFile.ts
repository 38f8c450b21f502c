import type { Response } from 'express';
import type { DocumentFile } from './documentOf.ts';

/** Sends a document as a file of its own name, which nobody runs. */
export function sendFile(response: Response, { name, mediaType, bytes }: DocumentFile): void {
  response.attachment(name);
  response.type(mediaType);
  response.set('X-Content-Type-Options', 'nosniff');
  response.send(bytes);
}
