import { Box } from '@chakra-ui/react';

/** How formatted text looks, typed and read alike. */
export const FORMATTED = {
  '& h2': { fontSize: '17px', fontWeight: 500, margin: '10px 0 4px' },
  '& h3': { fontSize: '15px', fontWeight: 600, margin: '8px 0 4px' },
  '& p': { margin: '0 0 6px' },
  '& ul, & ol': { paddingLeft: '20px', margin: '0 0 6px' },
  '& ul': { listStyle: 'disc' },
  '& ol': { listStyle: 'decimal' },
  '& a': { textDecoration: 'underline' },
  '& img': { maxWidth: '100%', maxHeight: '320px', borderRadius: '4px' },
  '& blockquote': { borderLeft: '3px solid', paddingLeft: '10px' },
};

/**
 * Formatted text as it is read. The server lets nothing but formatting into it before it is stored (`safeText`), and
 * the content security policy runs no script of it.
 */
export function ShownText({ html }: { readonly html: string }) {
  return <Box css={FORMATTED} overflowWrap="anywhere" dangerouslySetInnerHTML={{ __html: html }} />;
}
