import { Box, Flex, Grid, Text } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import { inkOn, legibleOn } from '../../../server/branding/messages.ts';
import { useFrame } from '../../frame/useFrame.ts';

interface Props {
  readonly mainColour: string;
  readonly accentColour: string;
  readonly logo: string | null;
}

/** A letter, an invoice and a customer's page in the colours chosen, side by side and small. */
export function Previews(look: Props) {
  const { name } = useFrame();
  return (
    <Box>
      <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
        As it will look
      </Text>
      <Grid templateColumns="repeat(3, 1fr)" gap="4" color="#16262B" fontSize="10px" lineHeight="1.5">
        <Sheet label="A letter" ground="#f3f6f4">
          <Head {...look} name={name} ground="#f3f6f4" rule={look.mainColour} />
          <Box bg="white" p="2" mt="2">
            Dear Ada Ashgrove,
            <br />
            We tried to charge £12.00 and it was declined.
            <Pill {...look}>Pay or change the card</Pill>
          </Box>
        </Sheet>
        <Sheet label="An invoice" ground="#ffffff">
          <Head {...look} name={name} ground="#ffffff" rule={look.accentColour} />
          <Flex mt="2" style={{ color: legibleOn(look.mainColour, '#ffffff') }} fontWeight="600">
            <Box flex="1">Invoice 204</Box>
            <Box>Due 18 Jan</Box>
          </Flex>
          {['Hive watch, 3 hives', 'Tax 20%'].map((line, i) => (
            <Flex key={line} borderBottomWidth="1px" borderColor="gray.300" py="1">
              <Box flex="1">{line}</Box>
              <Box>{i === 0 ? '28.50' : '5.70'}</Box>
            </Flex>
          ))}
          <Flex fontWeight="700" py="1">
            <Box flex="1">Total, GBP</Box>
            <Box>34.20</Box>
          </Flex>
        </Sheet>
        <Sheet label="A customer’s page" ground="#ffffff" top={look.mainColour}>
          <Head {...look} name={name} ground="#ffffff" />
          <Text fontFamily="heading" fontSize="14px" mt="2">
            Hive Watch
          </Text>
          Next: £34.20 on 18 Jan 2027
          <Pill {...look}>Pay £34.20 now</Pill>
          <Text mt="2" style={{ color: legibleOn(look.accentColour, '#ffffff') }}>
            Terms of service
          </Text>
        </Sheet>
      </Grid>
    </Box>
  );
}

function Sheet(props: { label: string; ground: string; top?: string; children: ReactNode }) {
  return (
    <Box>
      <Text color="muted" fontSize="13px" mb="1">
        {props.label}
      </Text>
      <Box
        borderWidth="1px"
        borderColor="lines"
        p="3"
        minH="170px"
        style={{ background: props.ground, ...(props.top ? { borderTop: `4px solid ${props.top}` } : {}) }}
      >
        {props.children}
      </Box>
    </Box>
  );
}

function Head(props: Props & { readonly name: string; readonly ground: string; readonly rule?: string }) {
  return (
    <Box pb="1" style={props.rule ? { borderBottom: `2px solid ${props.rule}` } : {}}>
      {props.logo ? (
        <img src={props.logo} alt="" style={{ maxHeight: 20, maxWidth: 120 }} />
      ) : (
        <Text
          fontFamily="heading"
          fontWeight="600"
          style={{ color: legibleOn(props.mainColour, props.ground) }}
        >
          {props.name}
        </Text>
      )}
    </Box>
  );
}

function Pill({ mainColour, children }: Props & { readonly children: ReactNode }) {
  return (
    <Box
      mt="2"
      px="2"
      py="1"
      borderRadius="2px"
      w="fit-content"
      style={{ background: mainColour, color: inkOn(mainColour) }}
    >
      {children}
    </Box>
  );
}
