import { CloseButton, Dialog, Portal, Table } from '@chakra-ui/react';
import { SHORTCUTS } from './shortcuts.ts';

/** The keys that work everywhere; loaded when it is first opened. */
export default function Help({ open, onClose }: { readonly open: boolean; readonly onClose: () => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={(details) => !details.open && onClose()} size="sm">
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="page">
            <Dialog.Header>
              <Dialog.Title fontWeight="500">Shortcuts</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>
              <Table.Root size="sm" css={{ '& td': { bg: 'page', borderColor: 'lines' } }}>
                <Table.Body>
                  {SHORTCUTS.map(([key, does]) => (
                    <Table.Row key={key}>
                      <Table.Cell w="90px">
                        <kbd>{key}</kbd>
                      </Table.Cell>
                      <Table.Cell>{does}</Table.Cell>
                    </Table.Row>
                  ))}
                </Table.Body>
              </Table.Root>
            </Dialog.Body>
            <Dialog.CloseTrigger asChild>
              <CloseButton size="sm" />
            </Dialog.CloseTrigger>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
