import { Box } from '@chakra-ui/react';

/**
 * What a typed text is understood as, laid over the end of the label: it takes no room, so that nothing jumps away under
 * the pointer when the field is left.
 */
export function Understood({ says }: { readonly says: string | null }) {
  if (says === null) return null;
  return (
    <Box
      role="status"
      position="absolute"
      bottom="100%"
      right="0"
      zIndex="docked"
      px="2"
      bg="kelp.muted"
      color="kelp.fg"
      fontSize="13px"
      whiteSpace="nowrap"
      borderRadius="sm"
    >
      = {says}
    </Box>
  );
}
