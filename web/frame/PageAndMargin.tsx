import { Box, Grid, Heading } from '@chakra-ui/react';
import type { ReactNode } from 'react';

interface Props {
  readonly title: string;
  /** What stands at the right of the title: the one action most wanted here. */
  readonly action?: ReactNode;
  readonly margin?: ReactNode;
  readonly marginLabel?: string;
  readonly children: ReactNode;
}

/** The page, where one works, and beside it the margin, which says what it means. */
export function PageAndMargin({ title, action, margin, marginLabel = 'What it means', children }: Props) {
  return (
    <Grid templateColumns={margin === undefined ? '1fr' : 'minmax(0, 1fr) 336px'} minH="0" flex="1">
      <Box as="main" px="7" py="5" overflowY="auto" minW="0">
        <Box display="flex" alignItems="baseline" mb="4" gap="4">
          <Heading as="h1" size="2xl" fontWeight="500">
            {title}
          </Heading>
          <Box ml="auto">{action}</Box>
        </Box>
        {children}
      </Box>
      {margin !== undefined && (
        <Box
          as="aside"
          aria-label={marginLabel}
          borderLeftWidth="1px"
          borderColor="lines"
          px="5"
          py="5"
          overflowY="auto"
          bg="ground"
        >
          {margin}
        </Box>
      )}
    </Grid>
  );
}

/** A heading inside the margin. */
export function MarginHeading({ children }: { readonly children: ReactNode }) {
  return (
    <Heading as="h2" size="md" fontWeight="500" mb="2" mt="5" _first={{ mt: 0 }}>
      {children}
    </Heading>
  );
}
