import { Box, Skeleton } from '@chakra-ui/react';
import { PageAndMargin } from './PageAndMargin.tsx';

/** What is on its way, in the shape of what comes. */
export type Shape = 'rows' | 'form' | 'sheet';

/** A page whose parts are still loading: its title, and the shape of what comes. The frame stays. */
export function PageLoading({ title = 'One moment', shape = 'sheet' }: { title?: string; shape?: Shape }) {
  return (
    <PageAndMargin title={title} {...(shape === 'rows' ? {} : { margin: <Loading shape="margin" /> })}>
      <Loading shape={shape} />
    </PageAndMargin>
  );
}

/** The shape of a part that is on its way. */
export function Loading({ shape = 'sheet' }: { readonly shape?: Shape | 'margin' }) {
  return (
    <Box role="status" aria-label="Loading">
      {shape === 'form' &&
        [380, 600, 180, 280, 440].map((w) => (
          <Box key={w} mb="5">
            <Skeleton h="14px" w="90px" mb="2" />
            <Skeleton h="36px" w={`${w}px`} maxW="full" />
          </Box>
        ))}
      {shape === 'sheet' && (
        <>
          <Skeleton h="18px" w="42%" mb="5" />
          <Skeleton h="76px" mb="6" />
          {Array.from({ length: 6 }, (_, i) => (
            <Skeleton key={i} h="28px" mb="2" />
          ))}
        </>
      )}
      {shape === 'rows' && Array.from({ length: 14 }, (_, i) => <Skeleton key={i} h="32px" mb="1" />)}
      {shape === 'margin' &&
        [60, 100, 90, 100, 40].map((w, i) => <Skeleton key={i} h="16px" w={`${w}%`} mb="3" />)}
    </Box>
  );
}
