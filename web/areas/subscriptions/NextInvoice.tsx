import { Button } from '@chakra-ui/react';
import { takeFile } from '../../api/takeFile.ts';
import { useAct } from '../../api/useAct.ts';
import { Outcome } from '../../parts/Outcome.tsx';

/** The next invoice as it would be printed, before anything is issued. */
export function NextInvoice({ subscriptionId }: { readonly subscriptionId: string }) {
  const acting = useAct();
  const path = `/api/subscriptions/${subscriptionId}/next-invoice.pdf`;
  return (
    <>
      <Button
        size="xs"
        variant="outline"
        mt="3"
        loading={acting.busy}
        onClick={() => void acting.act(() => takeFile(path, 'Preview of the next invoice.pdf'))}
      >
        The next invoice, as it would be (PDF)
      </Button>
      <Outcome of={acting} />
    </>
  );
}
