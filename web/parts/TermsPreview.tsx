import { Box, Text } from '@chakra-ui/react';
import { useMemo } from 'react';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import type { Terms } from '../../core/terms/schema.ts';
import { sayDate } from '../../core/words/date.ts';
import { Charges } from './Charges.tsx';
import { inFormWords } from './formWords.ts';
import { previewTerms } from './previewTerms.ts';
import { ThreadLine } from './ThreadLine.tsx';

interface Props {
  readonly terms: Record<string, unknown>;
  readonly today: string;
  /** Reads the terms by the taxes and calendar in force; without it, as they stand. */
  readonly compile?: (terms: Terms) => CompiledTerms;
  /** So many days before it begins a full period is invoiced. */
  readonly issueBefore?: number | undefined;
}

/** What terms will do: the thread and the dated charges with their sums, or what is missing before they can. */
export function TermsPreview({ terms, today, compile, issueBefore = 0 }: Props) {
  const asked = JSON.stringify(terms);
  const preview = useMemo(
    () => previewTerms(JSON.parse(asked), compile, { issueBefore }),
    [asked, compile, issueBefore],
  );
  if ('faults' in preview) {
    return (
      <Box mt="3">
        <Text color="muted">Nothing can be shown yet:</Text>
        <Box as="ul" pl="4" listStyleType="disc">
          {[...new Set(preview.faults.map((fault) => inFormWords(fault).detail))].map((says) => (
            <li key={says}>{says}</li>
          ))}
        </Box>
      </Box>
    );
  }
  const { charges, rest, thread, currency, from, to } = preview;
  return (
    <Box>
      <ThreadLine
        thread={thread}
        from={from}
        to={to}
        today={today}
        label="The coming charges along time"
        tall
      />
      <Box display="flex" justifyContent="space-between" color="muted" fontSize="12px" mb="2">
        <span>{sayDate(from)}</span>
        <span>{sayDate(to)}</span>
      </Box>
      <Charges charges={charges} currency={currency} rest={rest} />
      <Text color="muted" fontSize="13px" mt="2">
        {thread.ends === null
          ? 'It goes on until somebody ends it.'
          : `It ends: ${sayDate(thread.ends)} is the first day not served.`}
      </Text>
    </Box>
  );
}
