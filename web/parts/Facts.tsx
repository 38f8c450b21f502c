import { Box, Grid } from '@chakra-ui/react';
import type { ReactNode } from 'react';

/** What is known of a thing, each with what it is; what is empty is left out. */
export function Facts({ of }: { readonly of: readonly (readonly [string, ReactNode])[] }) {
  return (
    <Grid as="dl" templateColumns="max-content 1fr" columnGap="4" rowGap="1">
      {of
        .filter(([, value]) => value !== null && value !== '' && value !== undefined)
        .map(([label, value]) => (
          <Box key={label} display="contents">
            <Box as="dt" color="muted">
              {label}
            </Box>
            <Box as="dd" overflowWrap="anywhere">
              {value}
            </Box>
          </Box>
        ))}
    </Grid>
  );
}
