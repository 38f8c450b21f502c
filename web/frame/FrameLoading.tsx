import { Box, Flex, Skeleton } from '@chakra-ui/react';
import { PageLoading } from './PageLoading.tsx';

/** The frame while it is not yet known whose business it is: what loads shows inside it. */
export function FrameLoading() {
  return (
    <Flex h="100vh" bg="ground">
      <Box as="header" w="164px" flexShrink={0} borderRightWidth="1px" borderColor="lines" bg="page" p="4">
        <Skeleton h="20px" mb="2" />
        <Skeleton h="12px" w="60%" />
      </Box>
      <Flex direction="column" flex="1" minW="0">
        <Box h="92px" bg="page" borderBottomWidth="1px" borderColor="lines" flexShrink={0} />
        <PageLoading />
      </Flex>
    </Flex>
  );
}
