import { Box, Text } from '@chakra-ui/react';
import { sayDate as sayHouseDate } from '../../core/words/date.ts';
import type { CustomerMessage } from '../../server/customers/messages.ts';

/** What was written between a customer and the business, the oldest first. */
export function Correspondence(props: {
  readonly messages: readonly CustomerMessage[];
  /** What the two are called here. */
  readonly customer: string;
  readonly business: string;
  readonly label?: string;
  readonly sayDate?: (iso: string) => string;
}) {
  const { messages, customer, business, label = 'Messages', sayDate = sayHouseDate } = props;
  return (
    <Box as="ol" listStyleType="none" aria-label={label}>
      {messages.map((one) => (
        <Box
          as="li"
          key={one.id}
          borderLeftWidth="3px"
          borderColor={one.direction === 'in' ? 'trial' : 'lines'}
          pl="3"
          mb="3"
        >
          <Text color="muted" fontSize="13px">
            {one.direction === 'in' ? customer : one.writtenBy || business}, {sayDate(one.writtenOn)}
          </Text>
          <Text whiteSpace="pre-wrap" overflowWrap="anywhere">
            {one.says}
          </Text>
        </Box>
      ))}
    </Box>
  );
}
