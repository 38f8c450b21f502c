import { Box, Link as TextLink, Text } from '@chakra-ui/react';
import { Link } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { AgreementView } from '../../../server/reckonings/agreementMessages.ts';

/** What was agreed to when a subscription began: through whom, when, and what it came to then. */
export function Agreement({ of, currency }: { readonly of: AgreementView; readonly currency: string }) {
  return (
    <Box as="details" mb="5">
      <summary>
        Agreed on {sayDate(of.on)}, {THROUGH[of.channel]} {of.by}
        {of.termsVersion !== null && `; terms of service, version ${of.termsVersion}`}
      </summary>
      <Box ps="4" pt="1">
        {of.says === null ? (
          <Text color="muted">It was brought over: what was agreed to is with the business before.</Text>
        ) : (
          <Text>{of.says}</Text>
        )}
        {of.asksTerms && (
          <Text>
            {of.termsAgreed
              ? `They agreed to the terms of service, version ${of.termsAgreed.version}, on their own page on ${sayDate(of.termsAgreed.on)}${of.termsAgreed.from === '' ? '' : `, from ${of.termsAgreed.from}`}.`
              : 'They are asked to agree to the terms of service on their own page, and have not yet.'}
          </Text>
        )}
        {of.page && (
          <Text>
            By themselves, on the sign-up page{' '}
            <TextLink asChild color="kelp.fg">
              <Link to={`/sign-up-pages/${of.page.id}`}>{of.page.title}</Link>
            </TextLink>
            , version {of.page.version}
            {of.page.from !== '' && `, from ${of.page.from}`}
            {of.policies.length > 0 &&
              `; they agreed to ${of.policies.map(({ kind, version }) => `${kind}, version ${version}`).join(', and to ')}`}
            .
          </Text>
        )}
        {of.noTaxBecause !== '' && <Text>No tax is charged: {of.noTaxBecause}</Text>}
        {of.dues.length > 0 && (
          <Text color="muted">
            Then shown to come:{' '}
            {of.dues
              .slice(0, 6)
              .map(({ dueOn, due }) => `${sayAmount(BigInt(due), currency)} on ${sayDate(dueOn)}`)
              .join(', ')}
            {of.dues.length > 6 ? ' …' : ''}
          </Text>
        )}
      </Box>
    </Box>
  );
}

const THROUGH: Readonly<Record<AgreementView['channel'], string>> = {
  staff: 'through',
  program: 'by the program',
  customer: 'by',
  import: 'brought over by',
};
