import { Box, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import { sayPrice } from '../../../../core/words/sayRate.ts';
import type { PlanView } from '../../../../server/plans/messages.ts';
import { LINE_COLUMNS } from '../../../../server/settings/messages.ts';

const HOW = { required: 'always', preselected: 'unless left out', offered: 'if wanted' } as const;

/** What a plan says beside its rates, in a few words each: extra lines, what is asked, what customers may do. */
export function PlanSummary({ plan }: { readonly plan: PlanView }) {
  const { extras, asks, documents, documentsAt, mayDo, statementText, onInvoices } = plan;
  const may = [
    {
      never: '',
      now: 'end it at once',
      'period end': 'end it with the period paid',
      'after payments': `end it after ${mayDo.cancelAfter ?? 1} payments`,
    }[mayDo.cancel],
    mayDo.pause ? `pause it for up to ${mayDo.pauseMost} periods a year` : '',
    mayDo.skip ? `skip a period${mayDo.pause ? '' : `, up to ${mayDo.pauseMost} a year`}` : '',
    mayDo.quantity ? `have up to ${mayDo.quantityMost}` : '',
    mayDo.variant ? 'move to another variant' : '',
    mayDo.code ? 'use a code' : '',
  ].filter(Boolean);
  return (
    <Box mt="6">
      {extras.length > 0 && (
        <Row label="Extra lines">
          {extras.map(({ key, name, price, currency, how, when, min, max }) => (
            <Box key={key}>
              {name}: {sayPrice(price, currency)} {when === 'once' ? 'once' : 'with each payment'}, {HOW[how]}
              {max > 1 ? `, ${min === max ? min : `${min} to ${max}`} of them` : ''}
            </Box>
          ))}
        </Row>
      )}
      {asks.length > 0 && (
        <Row label="Asked">
          {asks.map(({ label, required }) => `${label}${required ? '' : ' (if given)'}`).join(', ')}
        </Row>
      )}
      {documents.length > 0 && (
        <Row label="To read">
          {documents.map(({ upload, name }, i) => (
            <Box key={upload}>
              <TextLink href={documentsAt[i] ?? undefined}>{name}</TextLink>
            </Box>
          ))}
        </Row>
      )}
      <Row label="Customers may alone">{may.length === 0 ? 'nothing: they write to us' : may.join(', ')}</Row>
      {statementText && <Row label="On statements">{statementText}</Row>}
      {(onInvoices.note || onInvoices.footer || onInvoices.columns) && (
        <Row label="On its invoices">
          {onInvoices.note && <Box whiteSpace="pre-line">{onInvoices.note}</Box>}
          {onInvoices.footer && <Box whiteSpace="pre-line">{onInvoices.footer}</Box>}
          {onInvoices.columns && <Box>Lines show: {LINE_COLUMNS[onInvoices.columns]}</Box>}
        </Row>
      )}
    </Box>
  );
}

function Row({ label, children }: { readonly label: string; readonly children: ReactNode }) {
  return (
    <Flex py="1" borderTopWidth="1px" borderColor="lines" gap="3">
      <Text w="150px" flexShrink={0} color="muted">
        {label}
      </Text>
      <Box>{children}</Box>
    </Flex>
  );
}
