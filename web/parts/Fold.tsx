import { Box } from '@chakra-ui/react';
import { useState, type ReactNode } from 'react';

/** A part of a form that is seldom needed, folded, with a line that says what it holds. */
export function Fold(props: {
  readonly title: string;
  /** What is in it, or what of it is given. */
  readonly holds: string;
  readonly open?: boolean;
  /** Told when it is opened. */
  readonly onOpen?: () => void;
  readonly children: ReactNode;
}) {
  const { title, holds, children } = props;
  // Once open it stays so until it is folded by hand, whatever becomes of what is in it.
  const [isOpen, setOpen] = useState(props.open ?? false);
  return (
    <Box borderTopWidth="1px" borderColor="lines" pt="2" asChild>
      <details
        open={isOpen}
        onToggle={(event) => {
          setOpen(event.currentTarget.open);
          if (event.currentTarget.open) props.onOpen?.();
        }}
      >
        <Box as="summary" cursor="pointer" py="1">
          <Box as="span" fontWeight="500">
            {title}
          </Box>
          <Box as="span" color="muted" ml="2" fontSize="13px">
            {holds}
          </Box>
        </Box>
        <Box pt="3" pb="4">
          {children}
        </Box>
      </details>
    </Box>
  );
}
