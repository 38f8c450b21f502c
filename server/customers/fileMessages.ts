import { z } from 'zod';

/** What a document may weigh, what all of one customer's may, and all that are kept. */
export const MOST_FILE_BYTES = 5_000_000;
export const MOST_OF_CUSTOMER_BYTES = 50_000_000;
export const MOST_OF_ALL_BYTES = 2_000_000_000;

/** What is kept, by the media types of what is in it, and what each is called. */
export const FILE_TYPES: Readonly<Record<string, string>> = {
  'application/pdf': 'PDF',
  'image/png': 'PNG',
  'image/jpeg': 'JPEG',
  'image/webp': 'WebP',
  'application/vnd.openxmlformats-officedocument.wordprocessingml.document': 'Word',
  'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet': 'Excel',
  'application/vnd.oasis.opendocument.text': 'OpenDocument text',
  'application/vnd.oasis.opendocument.spreadsheet': 'OpenDocument spreadsheet',
};

export const newFileQuery = z.object({
  name: z.string().trim().min(1, 'Give the file a name.').max(200),
  subscriptionId: z
    .string()
    .regex(/^\d{1,18}$/)
    .optional(),
});

/** The letters that a document goes with. */
export const FILE_LETTERS = {
  nothing: 'with no letter',
  'first letter': 'with the first letter',
  invoices: 'with every invoice and receipt',
} as const;
export type FileLetters = keyof typeof FILE_LETTERS;

/** What all that goes with one letter may weigh: few mail hosts take more. */
export const MOST_OF_LETTER_BYTES = 10_000_000;

export const goesWithSchema = z.strictObject({
  goesWith: z.enum(
    Object.keys(FILE_LETTERS) as [FileLetters, ...FileLetters[]],
    'Choose the letters that it goes with.',
  ),
});

/** Documents that were sent ahead of an enrolment, and what they go with. */
export const enrolmentFilesSchema = z
  .array(z.strictObject({ id: z.string().regex(/^\d{1,18}$/), ...goesWithSchema.shape }))
  .max(5, 'At most 5 documents.')
  .default([]);

export interface FileView {
  readonly id: string;
  readonly name: string;
  /** 'PDF', 'PNG'. */
  readonly kind: string;
  /** Bytes. */
  readonly size: number;
  readonly addedOn: string;
  readonly addedBy: string;
  readonly subscriptionId: string | null;
  readonly plan: string | null;
  readonly goesWith: FileLetters;
}
