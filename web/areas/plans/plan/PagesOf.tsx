import { Link as TextLink, Text } from '@chakra-ui/react';
import { Link } from 'react-router';
import type { PlanView } from '../../../../server/plans/messages.ts';
import { ForWriters } from '../../../frame/ForWriters.tsx';

/** The pages on which customers join a plan by themselves, or the way to make one. */
export function PagesOf({ plan, rates }: { readonly plan: PlanView; readonly rates: readonly string[] }) {
  const pages = plan.signUpPages ?? [];
  const link = (to: string, says: string) => (
    <TextLink asChild color="kelp.fg">
      <Link to={to}>{says}</Link>
    </TextLink>
  );
  const make = `/sign-up-pages/new?rates=${rates.join(',')}`;
  return (
    <Text mb="3">
      {pages.length === 0 ? (
        <>
          Nobody can join it by themselves yet. <ForWriters>{link(make, 'Make its sign-up page')}</ForWriters>
        </>
      ) : (
        <>
          Customers join it by themselves on{' '}
          {pages.map(({ id, title, isOn }, i) => (
            <span key={id}>
              {i > 0 && ', '}
              {link(`/sign-up-pages/${id}`, title)}
              {!isOn && ' (off)'}
            </span>
          ))}
          . <ForWriters>{link(make, 'Make another page')}</ForWriters>
        </>
      )}
    </Text>
  );
}
