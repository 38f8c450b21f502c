import { Box, Button, chakra, Text } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import { goToField, PAGE_FORM } from '../frame/pageForm.ts';
import type { DraftForm } from './useDraftForm.ts';

interface Props {
  readonly of: Pick<DraftForm, 'missing' | 'busy' | 'says'>;
  /** What the button does, in words. */
  readonly label: string;
  /** Said where nothing is missing. */
  readonly ready?: ReactNode;
  /** There is nothing to store: as it is saved already. */
  readonly unchanged?: boolean;
  /** The form that the button belongs to: by default that of the page. */
  readonly form?: string;
  readonly children?: ReactNode;
}

/** The foot of a form's margin: what is still missing, each a way to its field, and the button once nothing is. */
export function Confirm({ of, label, ready, unchanged = false, form = PAGE_FORM, children }: Props) {
  const { missing, busy, says } = of;
  return (
    <Box mt="5" borderTopWidth="1px" borderColor="lines" pt="4">
      {missing.length > 0 ? (
        <Box mb="3" role="group" aria-label="Still missing">
          <Text as="span">Still missing: </Text>
          {missing.map(({ field, says: what }, i) => (
            <span key={`${field}${what}`}>
              <chakra.button
                type="button"
                color="kelp.fg"
                textDecoration="underline"
                cursor="pointer"
                textAlign="start"
                onClick={() => goToField(field, what)}
              >
                {what}
              </chakra.button>
              {i === missing.length - 1 ? '.' : ', '}
            </span>
          ))}
        </Box>
      ) : (
        <Text mb="3">{unchanged ? 'Nothing is changed.' : (ready ?? 'Nothing is missing.')}</Text>
      )}
      {children}
      {/* Enter in a field still comes here, and leads to what is missing; a disabled button would swallow it. */}
      <Button
        type="submit"
        form={form}
        colorPalette="kelp"
        loading={busy}
        aria-disabled={missing.length > 0 || unchanged}
        css={{ '&[aria-disabled="true"]': { opacity: 0.45, cursor: 'not-allowed' } }}
      >
        {label}
      </Button>
      <Text role="alert" color="declined" mt="2">
        {says}
      </Text>
    </Box>
  );
}
