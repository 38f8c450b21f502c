import { Box, Button } from '@chakra-ui/react';
import { useState } from 'react';
import useSWR from 'swr';

interface Numbered {
  readonly number: string;
  readonly description: string;
}

interface Props {
  readonly label: string;
  /** What they are known by while they are shown. */
  readonly of: readonly (string | undefined)[];
  readonly read: () => Promise<readonly Numbered[]>;
  readonly onTake: (number: string) => void;
}

/** The numbers that a practice gateway knows, each with what it does, to be taken with a click. */
export function Practice({ label, of, read, onTake }: Props) {
  const [showing, setShowing] = useState(false);
  const { data = [] } = useSWR(showing ? of : null, read);
  return (
    <Box mt="2">
      <Button size="xs" variant="outline" aria-expanded={showing} onClick={() => setShowing(!showing)}>
        {label}
      </Button>
      {showing && (
        <Box as="ul" listStyleType="none" mt="2" borderTopWidth="1px" borderColor="lines">
          {data.map(({ number, description }) => (
            <Box as="li" key={number} borderBottomWidth="1px" borderColor="lines">
              <Button
                variant="plain"
                size="xs"
                w="full"
                justifyContent="flex-start"
                px="0"
                fontWeight="400"
                onClick={() => onTake(number)}
              >
                <Box as="span" fontVariantNumeric="tabular-nums">
                  {number}
                </Box>
                <Box as="span" color="muted" truncate>
                  {description}
                </Box>
              </Button>
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
}
