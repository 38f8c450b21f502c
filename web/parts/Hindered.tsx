import { Box, Icon } from '@chakra-ui/react';
import { CircleAlert } from 'lucide-react';

/** Says beside a subscription what hinders its next payment; nothing where nothing does. */
export function Hindered({ says }: { readonly says: string | null }) {
  if (says === null) return null;
  return (
    <Box as="span" color="declined" fontSize="13px" title={says}>
      {' '}
      <Icon as={CircleAlert} boxSize="13px" verticalAlign="-2px" aria-hidden /> {says}
    </Box>
  );
}
