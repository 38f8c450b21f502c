import { Box, Button, Flex, SkipNavLink, Text } from '@chakra-ui/react';
import { Moon, Search, Sun } from 'lucide-react';
import { lazy, Suspense, useCallback, useState, type ReactNode } from 'react';
import { Link, Navigate, NavLink, Outlet, useLocation } from 'react-router';
import { sayDate } from '../../core/words/date.ts';
import type { Role } from '../../server/staff/messages.ts';
import type { BusinessView } from '../../server/run/messages.ts';
import { remove } from '../api/client.ts';
import { useBusiness } from '../api/hooks.ts';
import { FrameLoading } from './FrameLoading.tsx';
import { PageLoading } from './PageLoading.tsx';
import { Rail } from './Rail.tsx';
import { isAtLeast } from './ranks.ts';
import { TurnedPages } from './TurnedPages.tsx';
import { useRoving } from './roving.ts';
import { useShortcuts } from './shortcuts.ts';
import { SignIn } from './SignIn.tsx';
import { SignInAgain } from './SignInAgain.tsx';
import { forgetDrafts } from '../parts/keptDraft.ts';
import { MannerContext } from '../parts/manner.ts';
import { TypedAhead } from './TypedAhead.tsx';
import { useEdition } from './edition.ts';

// What is opened over a page is loaded when it is first opened.
const Find = lazy(() => import('./Find.tsx'));
const Help = lazy(() => import('./Help.tsx'));

const AREAS: readonly { group: string; links: readonly (readonly [string, string, Role?])[] }[] = [
  {
    group: 'Offer',
    links: [
      ['/plans', 'Plans'],
      ['/rate-cards', 'Rate cards'],
      ['/discounts', 'Discounts'],
      ['/sign-up-pages', 'Sign-up pages'],
    ],
  },
  {
    group: 'Enrol',
    links: [
      ['/customers', 'Customers'],
      ['/subscriptions', 'Subscriptions'],
      ['/import', 'Import', 'biller'],
    ],
  },
  {
    group: 'Collect',
    links: [
      ['/', 'Day sheet'],
      ['/invoices', 'Invoices'],
      ['/payments', 'Payments'],
    ],
  },
  {
    group: 'Recover',
    links: [
      ['/cases', 'Cases'],
      ['/ladders', 'Ladders'],
      ['/letters', 'Letterbook'],
      ['/recovery-figures', 'Figures'],
    ],
  },
];

/** Setup comes last, and shows its pages while one is in it. */
const SETUP: readonly (readonly [string, string, Role])[] = [
  ['/setup', 'Readiness', 'reader'],
  ['/setup/business', 'Business', 'biller'],
  ['/setup/look', 'Look', 'biller'],
  ['/setup/invoices', 'Invoices', 'biller'],
  ['/setup/customers', 'Customers', 'biller'],
  ['/setup/policies', 'Policies', 'biller'],
  ['/setup/gateways', 'Gateways', 'biller'],
  ['/setup/recovery', 'Letters', 'biller'],
  ['/setup/taxes', 'Taxes', 'biller'],
  ['/setup/calendar', 'Calendar', 'biller'],
  ['/setup/mail', 'Mail', 'biller'],
  ['/setup/sites', 'Sites', 'biller'],
  ['/setup/people', 'People', 'owner'],
  ['/setup/security', 'Security', 'owner'],
  ['/setup/keys', 'API keys', 'owner'],
  ['/setup/audit', 'Audit', 'owner'],
];

function areasFor(role: Role, inSetup: boolean) {
  const open = SETUP.filter(([, , least]) => isAtLeast(role, least));
  const links = open.map(([path, name]) => [path, name] as const);
  const areas = AREAS.map(({ group, links: all }) => ({
    group,
    links: all
      .filter(([, , least = 'reader']) => isAtLeast(role, least))
      .map(([path, name]) => [path, name] as const),
  }));
  return [...areas, { group: 'Setup', links: inSetup ? links : links.slice(0, 1) }];
}

/** The frame of every operator screen: areas at the left, the day rail across the top, the page below it. */
export function Frame() {
  const { data: business, error } = useBusiness();
  if (error?.status === 401) return <SignIn />;
  if (error && !business) return <Text p="8">{error.message}</Text>;
  if (!business) return <FrameLoading />;
  return <SignedIn business={business} />;
}

function SignedIn({ business }: { readonly business: BusinessView }) {
  const finding = useOpened();
  const helping = useOpened();
  const [typed, setTyped] = useState('');
  const [turned, setTurned] = useState<{ from: string; to: string } | null>(null);
  const onTurned = useCallback((from: string, to: string) => setTurned({ from, to }), []);
  const { edition, change } = useEdition();
  const { pathname } = useLocation();
  const inSetup = pathname.startsWith('/setup');
  const areas = areasFor(business.role, inSetup);
  // One tab stop: the area one is in.
  const roving = useRoving(areaOf(pathname, areas), { ArrowDown: 1, ArrowUp: -1 });
  useShortcuts(business.businessDate, { find: finding.open, help: helping.open });
  return (
    <MannerContext value={{ locale: business.locale, today: business.businessDate, business: business.name }}>
      <Flex h="100vh" bg="ground" _print={{ display: 'block', h: 'auto', bg: 'page' }}>
        <SkipNavLink
          id="main"
          onClick={(event) => {
            event.preventDefault();
            document.getElementById('main')?.focus();
          }}
        >
          Skip to the page
        </SkipNavLink>
        <Flex
          as="header"
          _print={{ display: 'none' }}
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
            onClick={finding.open}
          >
            <Search size={12} aria-hidden /> Find{' '}
            <Box as="kbd" ml="auto" color="muted">
              /
            </Box>
          </Button>
          <Box as="nav" aria-label="Areas" flex="1" overflowY="auto" {...roving.group}>
            {areas.map(({ group, links }) => (
              <Box key={group} mt={inSetup ? '1' : '4'}>
                <Text px="4" fontFamily="heading" fontStyle="italic" color="muted" fontSize="13px">
                  {group}
                </Text>
                {links.map(([path, name]) => (
                  <NavLink
                    key={path}
                    to={path}
                    end={path === '/' || path === '/setup'}
                    {...roving.link(path)}
                    style={{ textDecoration: 'none' }}
                  >
                    {({ isActive }) => (
                      <Box
                        px="4"
                        py={inSetup ? '0' : '2px'}
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
          <Flex px="4" pt="2" columnGap="3" rowGap="0" wrap="wrap" borderTopWidth="1px" borderColor="lines">
            <Button asChild size="xs" h="26px" variant="plain" px="0" color="muted">
              <Link to="/me">You</Link>
            </Button>
            <Button
              size="xs"
              h="26px"
              variant="plain"
              px="0"
              color="muted"
              onClick={async () => {
                forgetDrafts();
                await remove('/api/session');
                window.location.assign('/');
              }}
            >
              Sign out
            </Button>
            <Button size="xs" h="26px" variant="plain" px="0" color="muted" onClick={helping.open}>
              Shortcuts
            </Button>
            <Button
              size="xs"
              h="26px"
              minW="0"
              variant="plain"
              px="0"
              color="muted"
              aria-label={edition === 'dark' ? 'Light edition' : 'Dark edition'}
              title={edition === 'dark' ? 'Light edition' : 'Dark edition'}
              onClick={change}
            >
              {edition === 'dark' ? <Sun size={14} aria-hidden /> : <Moon size={14} aria-hidden />}
            </Button>
          </Flex>
        </Flex>
        <Flex direction="column" flex="1" minW="0">
          {!business.wantsFactor && <Rail business={business} onTurned={onTurned} />}
          <Suspended of={business.suspended} />
          <LettersHeld since={business.lettersHeldOn} />
          {turned && <TurnedPages {...turned} onClose={() => setTurned(null)} />}
          {business.wantsFactor && pathname !== '/me' ? (
            <Navigate to="/me" replace />
          ) : (
            // Keyed: a page on its way shows its shape at once, instead of the page before it.
            <Suspense key={pathname} fallback={<PageLoading title={nameOfArea(pathname, areas)} />}>
              <Outlet context={business} />
            </Suspense>
          )}
        </Flex>
        {finding.wasOpened && (
          <Suspense fallback={<TypedAhead onTyped={setTyped} />}>
            <Find typed={typed} role={business.role} open={finding.isOpen} onClose={finding.close} />
          </Suspense>
        )}
        <SignInAgain />
        {helping.wasOpened && (
          <Suspense fallback={null}>
            <Help open={helping.isOpen} onClose={helping.close} />
          </Suspense>
        )}
      </Flex>
    </MannerContext>
  );
}

/** Collecting that is stopped is said on every screen, for as long as it lasts. */
function Suspended({ of }: { readonly of: BusinessView['suspended'] }) {
  if (of.until === null && of.customers === 0) return null;
  const some = of.customers === 1 ? 'one customer' : `${of.customers} customers`;
  return (
    <Stopped to="/suspensions" where="What waits">
      {of.until === null
        ? `Collecting from ${some} is stopped.`
        : `Collecting is stopped until ${sayDate(of.until)}.`}
    </Stopped>
  );
}

/** So are letters that are held back. */
function LettersHeld({ since }: { readonly since: string | null }) {
  if (since === null) return null;
  return (
    <Stopped to="/letters?state=to+be+sent" where="What waits">
      Letters to customers are held since {sayDate(since)}.
    </Stopped>
  );
}

/** Something that staff have stopped, which nobody is to forget. */
function Stopped(props: { readonly to: string; readonly where: string; readonly children: ReactNode }) {
  const { to, where, children } = props;
  return (
    <Box
      role="status"
      bg="paused"
      color="page"
      px="7"
      py="1.5"
      fontSize="13.5px"
      _print={{ display: 'none' }}
    >
      {children}{' '}
      <Link to={to} style={{ textDecoration: 'underline' }}>
        {where}
      </Link>
    </Box>
  );
}

/** Something over the page that is open or not, and whether it ever was. */
function useOpened() {
  const [isOpen, setOpen] = useState(false);
  const [wasOpened, setOpened] = useState(false);
  const open = useCallback(() => {
    setOpened(true);
    setOpen(true);
  }, []);
  const close = useCallback(() => setOpen(false), []);
  return { isOpen, wasOpened, open, close };
}

/** What the area that a path is in is called. */
function nameOfArea(pathname: string, areas: ReturnType<typeof areasFor>): string {
  const path = areaOf(pathname, areas);
  const [, name] = areas.flatMap(({ links }) => links).find(([link]) => link === path) ?? [];
  if (pathname === '/enrol/several') return 'Enrol several customers';
  return pathname === '/enrol' ? 'Enrol a customer' : (name ?? 'One moment');
}

/** The link of the area that a path is in. */
function areaOf(pathname: string, areas: ReturnType<typeof areasFor>): string {
  const paths = areas.flatMap(({ links }) => links.map(([path]) => path));
  const within = paths.filter(
    (path) => pathname === path || (path !== '/' && pathname.startsWith(`${path}/`)),
  );
  return within.sort((a, b) => b.length - a.length)[0] ?? paths[0] ?? '/';
}
