import { Box, Button, CloseButton, Dialog, Flex, Portal, Spinner, Table, Text } from '@chakra-ui/react';
import { Moon, Search, Sun } from 'lucide-react';
import { useState } from 'react';
import { NavLink, Outlet } from 'react-router';
import type { BusinessView } from '../../server/run/messages.ts';
import { remove } from '../api/client.ts';
import { useBusiness } from '../api/hooks.ts';
import { Find } from './Find.tsx';
import { Rail } from './Rail.tsx';
import { SHORTCUTS, useShortcuts } from './shortcuts.ts';
import { SignIn } from './SignIn.tsx';
import { useEdition } from './edition.ts';

const AREAS: readonly { group: string; links: readonly (readonly [string, string])[] }[] = [
  { group: 'Offer', links: [['/plans', 'Plans']] },
  {
    group: 'Enrol',
    links: [
      ['/customers', 'Customers'],
      ['/subscriptions', 'Subscriptions'],
    ],
  },
  { group: 'Collect', links: [['/', 'Day sheet']] },
  {
    group: 'Recover',
    links: [
      ['/cases', 'Cases'],
      ['/letters', 'Letterbook'],
    ],
  },
];

/** The frame of every operator screen: areas at the left, the day rail across the top, the page below it. */
export function Frame() {
  const { data: business, error } = useBusiness();
  if (error?.status === 401) return <SignIn />;
  if (error && !business) return <Text p="8">{error.message}</Text>;
  if (!business) return <Spinner m="8" aria-label="Loading" />;
  return <SignedIn business={business} />;
}

function SignedIn({ business }: { readonly business: BusinessView }) {
  const [finding, setFinding] = useState(false);
  const [helping, setHelping] = useState(false);
  const { edition, change } = useEdition();
  useShortcuts(business.businessDate, { find: () => setFinding(true), help: () => setHelping(true) });
  return (
    <Flex h="100vh" bg="ground">
      <Flex
        as="header"
        direction="column"
        w="164px"
        flexShrink={0}
        borderRightWidth="1px"
        borderColor="lines"
        bg="page"
        py="4"
      >
        <Text fontFamily="heading" fontSize="17px" lineHeight="1.15" px="4" fontWeight="600">
          {business.name}
        </Text>
        <Text fontSize="12px" color="muted" px="4" mb="3">
          Keen Almanac
        </Text>
        <Button
          size="xs"
          variant="outline"
          mx="4"
          mb="2"
          justifyContent="flex-start"
          onClick={() => setFinding(true)}
        >
          <Search size={12} aria-hidden /> Find{' '}
          <Box as="kbd" ml="auto" color="muted">
            /
          </Box>
        </Button>
        <Box as="nav" aria-label="Areas" flex="1" overflowY="auto">
          {AREAS.map(({ group, links }) => (
            <Box key={group} mt="4">
              <Text px="4" fontFamily="heading" fontStyle="italic" color="muted" fontSize="13px">
                {group}
              </Text>
              {links.map(([path, name]) => (
                <NavLink key={path} to={path} end={path === '/'} style={{ textDecoration: 'none' }}>
                  {({ isActive }) => (
                    <Box
                      px="4"
                      py="1"
                      bg={isActive ? 'kelp.muted' : undefined}
                      color={isActive ? 'kelp.fg' : 'ink'}
                      fontWeight={isActive ? '600' : '400'}
                      _hover={{ bg: 'kelp.subtle' }}
                    >
                      {name}
                    </Box>
                  )}
                </NavLink>
              ))}
            </Box>
          ))}
        </Box>
        <Flex px="4" gap="1" direction="column" align="flex-start">
          <Button size="xs" variant="plain" px="0" color="muted" onClick={() => setHelping(true)}>
            Shortcuts
          </Button>
          <Button size="xs" variant="plain" px="0" color="muted" onClick={change}>
            {edition === 'dark' ? <Sun size={12} aria-hidden /> : <Moon size={12} aria-hidden />}
            {edition === 'dark' ? 'Light edition' : 'Dark edition'}
          </Button>
          <Button
            size="xs"
            variant="plain"
            px="0"
            color="muted"
            onClick={async () => {
              await remove('/api/session');
              window.location.assign('/');
            }}
          >
            Sign out
          </Button>
        </Flex>
      </Flex>
      <Flex direction="column" flex="1" minW="0">
        <Rail business={business} />
        <Outlet context={business} />
      </Flex>
      <Find open={finding} onClose={() => setFinding(false)} />
      <Help open={helping} onClose={() => setHelping(false)} />
    </Flex>
  );
}

function Help({ open, onClose }: { readonly open: boolean; readonly onClose: () => void }) {
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
