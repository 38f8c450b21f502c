import { Box, Button, Flex, Input, Link as TextLink, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { sayDate } from '../../../core/words/date.ts';
import type { InvoicePage as Invoice } from '../../../server/invoices/messages.ts';
import { post } from '../../api/client.ts';
import { takeFile } from '../../api/takeFile.ts';
import { useAct } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { Outcome } from '../../parts/Outcome.tsx';

/** Whether something of an invoice is still to be paid. */
export const isOpen = ({ owed, state }: Pick<Invoice, 'owed' | 'state'>) =>
  owed !== '0' && state !== 'written off';

const FILES = [
  ['document.pdf', 'PDF'],
  ['document.xml', 'UBL, for the buyer’s accounts'],
  ['letter.eml', 'A letter for your mail program'],
] as const;

/** The invoice as files, and as a link to hand on. */
export function Documents({ invoice }: { readonly invoice: Invoice }) {
  const acting = useAct();
  const [link, setLink] = useState<{ url: string; expiresOn: string } | null>(null);
  // Asked for here, so that what a file cannot be made of is said: UBL asks for more than a page does.
  const taking = useAct();
  const take = (path: string) =>
    void taking.act(() => takeFile(path, `Invoice ${invoice.number}.${path.split('.').at(-1)}`));
  const make = () =>
    acting.act(async () =>
      setLink(await post<{ url: string; expiresOn: string }>(`/api/invoices/${invoice.id}/pay-link`)),
    );
  return (
    <>
      <MarginHeading>As a file</MarginHeading>
      <Flex direction="column" gap="1" align="flex-start">
        {FILES.map(([file, says]) => (
          <TextLink
            key={file}
            href={`/api/invoices/${invoice.id}/${file}`}
            download
            color="kelp.fg"
            onClick={(event) => {
              event.preventDefault();
              take(`/api/invoices/${invoice.id}/${file}`);
            }}
          >
            {says}
          </TextLink>
        ))}
      </Flex>
      <Outcome of={taking} />
      {isOpen(invoice) && (
        <ForWriters>
          <Button size="sm" variant="outline" mt="4" loading={acting.busy} onClick={() => void make()}>
            Make a link to pay it
          </Button>
          {link && (
            <Box mt="2">
              <Input
                size="sm"
                bg="page"
                readOnly
                aria-label="Link to pay it"
                value={link.url}
                onFocus={(event) => event.target.select()}
              />
              <Text color="muted" fontSize="13px" mt="1">
                Whoever has it sees and pays what this customer owes. Good until {sayDate(link.expiresOn)}.
              </Text>
            </Box>
          )}
          <Outcome of={acting} />
        </ForWriters>
      )}
    </>
  );
}
