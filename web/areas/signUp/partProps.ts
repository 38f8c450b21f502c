import type { PageDraft } from './pageDraft.ts';

/** What every part of the form of a page is given. */
export interface PartProps {
  readonly draft: PageDraft;
  /** What is wrong at a pointer. */
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onChange: (to: Partial<PageDraft>) => void;
}
