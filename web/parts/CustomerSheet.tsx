import { Box, Text } from '@chakra-ui/react';
import { useEffect, type ReactNode } from 'react';
import { inkOn, legibleOn, type PageLook } from '../../server/branding/messages.ts';

interface Props {
  readonly business: string;
  readonly look: PageLook | null;
  readonly children: ReactNode;
}

/**
 * The sheet that customers' pages are written on, in the business's own look. It is always light: the logo and
 * colours were chosen for white paper. Buttons marked `data-main` take the main colour.
 */
export function CustomerSheet({ business, look, children }: Props) {
  const main = look?.mainColour ?? '#0e6655';
  useEffect(() => {
    document.documentElement.classList.replace('dark', 'light');
    document.documentElement.style.colorScheme = 'light';
    if (business !== '') document.title = business;
    if (!look?.icon) return;
    const icon =
      document.querySelector<HTMLLinkElement>('link[rel="icon"]') ?? document.createElement('link');
    icon.rel = 'icon';
    icon.href = look.icon;
    document.head.append(icon);
  }, [business, look?.icon]);
  return (
    <Box
      minH="100vh"
      bg="ground"
      py={{ base: '4', md: '10' }}
      px="3"
      css={{
        '& button[data-main]': { background: main, color: inkOn(main) },
        '& button[data-second]': { borderColor: main, color: legibleOn(main, '#ffffff') },
        '& h1': { color: legibleOn(main, '#ffffff') },
        '& summary': { color: legibleOn(look?.accentColour ?? main, '#ffffff') },
      }}
    >
      <Box
        as="main"
        maxW="520px"
        mx="auto"
        bg="page"
        borderWidth="1px"
        borderColor="lines"
        borderTopWidth="4px"
        borderRadius="md"
        px={{ base: '4', md: '8' }}
        py="6"
        style={{ borderTopColor: main }}
      >
        {look?.logo ? (
          <img src={look.logo} alt={business} style={{ maxHeight: 44, maxWidth: 240, marginBottom: 20 }} />
        ) : (
          business !== '' && (
            <Text fontFamily="heading" fontWeight="600" fontSize="18px" mb="5">
              {business}
            </Text>
          )
        )}
        {children}
      </Box>
    </Box>
  );
}
