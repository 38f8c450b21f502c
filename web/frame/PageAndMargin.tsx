import { Box, Grid, Heading } from '@chakra-ui/react';
import { Suspense, useRef, type FormEvent, type ReactNode } from 'react';
import { useManner } from '../parts/manner.ts';
import { useArrival } from './arrival.ts';
import { PAGE_FORM, useFaultFocus } from './pageForm.ts';

interface Props {
  readonly title: string;
  /** What stands at the right of the title: the one action most wanted here. */
  readonly action?: ReactNode;
  /** Absent, or false: the page has the whole width. */
  readonly margin?: ReactNode;
  readonly marginLabel?: string;
  /** The page is a form: Enter does this, and the focus comes to its first field. */
  readonly onSubmit?: (() => unknown) | undefined;
  /** Where the focus goes after a move to this page: for forms their first field. */
  readonly arriveAt?: 'heading' | 'field';
  readonly children: ReactNode;
}

/** The page, where one works, and beside it the margin, which says what it means. */
export function PageAndMargin(props: Props) {
  const { title, action, margin, marginLabel = 'What it means', onSubmit, children } = props;
  const { business } = useManner();
  const main = useRef<HTMLElement>(null);
  useArrival(main, props.arriveAt ?? (onSubmit ? 'field' : 'heading'));
  useFaultFocus(main);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void onSubmit?.();
  };
  const hasMargin = margin !== undefined && margin !== false && margin !== null;
  return (
    <Grid
      templateColumns={hasMargin ? 'minmax(0, 1fr) 336px' : 'minmax(0, 1fr)'}
      minH="0"
      flex="1"
      _print={{ display: 'block' }}
    >
      <title>{`${title} · ${business}`}</title>
      <Box
        as="main"
        ref={main}
        id="main"
        tabIndex={-1}
        px="7"
        py="5"
        overflowY="auto"
        minW="0"
        outline="none"
        _print={{ overflow: 'visible', p: '0' }}
      >
        <Box display="flex" alignItems="baseline" mb="4" gap="4">
          <Heading
            as="h1"
            size="2xl"
            fontWeight="500"
            tabIndex={-1}
            css={{ '&:focus-visible': { outline: 'none' } }}
          >
            {title}
          </Heading>
          <Box ml="auto">{action}</Box>
        </Box>
        {onSubmit ? (
          <form id={PAGE_FORM} noValidate onSubmit={submit}>
            {children}
          </form>
        ) : (
          children
        )}
      </Box>
      {hasMargin && (
        <Box
          as="aside"
          // It may be longer than the window, and is scrolled by keys too.
          tabIndex={0}
          aria-label={marginLabel}
          borderLeftWidth="1px"
          borderColor="lines"
          px="5"
          py="5"
          overflowY="auto"
          bg="ground"
          _print={{ display: 'none' }}
        >
          {/* Parts of it may be loaded when they are first shown. */}
          <Suspense fallback={null}>{margin}</Suspense>
        </Box>
      )}
    </Grid>
  );
}

/** A heading inside the margin. */
export function MarginHeading({ children }: { readonly children: ReactNode }) {
  return (
    <Heading as="h2" size="md" fontWeight="500" mb="2" mt="5" _first={{ mt: 0 }}>
      {children}
    </Heading>
  );
}
