import { Box, Button, Flex, Grid, Input, Link as TextLink, Text, Textarea } from '@chakra-ui/react';
import { useId, useState } from 'react';
import { Link, useParams } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { STEPS, type PageNumbers, type SignUpPageForStaff } from '../../../server/signUp/messages.ts';
import { useAnswer } from '../../api/hooks.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { Archive } from '../../parts/Archive.tsx';
import { FrameAtWidth } from './PreviewFrame.tsx';
import { SwitchOn } from './SwitchOn.tsx';

/** A sign-up page: tried as a customer, shared, and what it has brought. */
export function SignUpPagePage() {
  const { id = '' } = useParams();
  const { data: page, error } = useAnswer<SignUpPageForStaff>(`/api/sign-up-pages/${id}`);
  if (error && !page) return <PageAndMargin title="There is no such page">{error.message}</PageAndMargin>;
  return page && page.id === id ? (
    <Shown page={page} />
  ) : (
    <PageLoading title="The sign-up page" shape="form" />
  );
}

const SAYS = {
  off: 'It is off: nobody can join yet.',
  over: 'Its last day is over: nobody can join any more.',
  full: 'All its places are taken.',
  nothing: 'Nothing on it can be sold any more.',
} as const;

function Shown({ page }: { readonly page: SignUpPageForStaff }) {
  const { id, value, closed, isOn, archivedOn, faults, joined } = page;
  const title = value.texts[value.language]?.title ?? value.key;
  return (
    <PageAndMargin
      title={title}
      action={
        <ForWriters>
          <Flex gap="2" align="center">
            {archivedOn === null && <SwitchOn id={id} isOn={isOn} />}
            <Button size="xs" colorPalette="kelp" asChild>
              <Link to={`/sign-up-pages/${id}/edit`}>Edit</Link>
            </Button>
          </Flex>
        </ForWriters>
      }
      marginLabel="What it has brought"
      margin={
        <>
          <MarginHeading>What it has brought</MarginHeading>
          <Numbers numbers={page.numbers} joined={joined} places={value.places} />
          {page.tried.length > 0 && (
            <Box role="note" borderLeftWidth="3px" borderColor="declined" pl="3" my="4">
              <Text fontWeight="500">Cards are being tried here</Text>
              {page.tried.map(({ address, declined }) => (
                <Text key={address}>
                  {declined} declined from {address}
                </Text>
              ))}
              <Text color="muted" fontSize="13px">
                In seven days. Further tries from there wait, longer each time.
              </Text>
            </Box>
          )}
          <ForWriters>
            <Archive
              what="sign-up page"
              id={id}
              name={title}
              archived={archivedOn !== null}
              subscribers={joined}
            />
          </ForWriters>
        </>
      }
    >
      <Text mb="3" role="status">
        {archivedOn !== null
          ? 'It is archived: its address leads nowhere.'
          : closed === null
            ? 'Customers can join here.'
            : SAYS[closed]}
      </Text>
      {faults.map((fault) => (
        <Text key={fault} color="declined" mb="2">
          {fault}
        </Text>
      ))}
      <Grid templateColumns="minmax(0, 1fr) minmax(0, 1fr)" gap="8" alignItems="start">
        <Box as="section" aria-label="Try it">
          <Text as="h2" fontFamily="heading" fontSize="18px" mb="2">
            Try it as a customer
          </Text>
          <FrameAtWidth
            room={338}
            height={560}
            title={`${title}, tried as a customer`}
            src={`/join/${value.key}?rehearsal&v=${page.version}`}
          />
          <Text color="muted" fontSize="13px" mt="1">
            Everything is played through at the gateway, and nothing of it is kept.{' '}
            <TextLink href={`/join/${value.key}?rehearsal`} target="_blank" color="kelp.fg">
              In a window of its own
            </TextLink>
          </Text>
        </Box>
        <Share page={page} title={title} />
      </Grid>
    </PageAndMargin>
  );
}

const REACHED: Readonly<Record<(typeof STEPS)[number], string>> = {
  seen: 'saw it',
  choosing: 'began to choose',
  details: 'came to their details',
  paying: 'came to paying',
  joined: 'joined',
};

function Numbers(props: {
  readonly numbers: PageNumbers;
  readonly joined: number;
  readonly places: number | null;
}) {
  const { reached, monthly, days } = props.numbers;
  const most = Math.max(1, reached[0] ?? 0);
  const { joined, places } = props;
  return (
    <Box>
      <table style={{ width: '100%' }}>
        <caption style={{ textAlign: 'left', paddingBottom: 4 }}>Of those who came in {days} days</caption>
        <tbody>
          {STEPS.map((step, i) => {
            const n = reached[i] ?? 0;
            const lost = i === 0 ? 0 : (reached[i - 1] ?? 0) - n;
            return (
              <tr key={step}>
                <th scope="row" style={{ textAlign: 'left', fontWeight: 400 }}>
                  {REACHED[step]}
                  {lost > 0 && (
                    <Text as="span" color="muted" fontSize="13px">
                      {' '}
                      ({lost} left before)
                    </Text>
                  )}
                  <Box
                    aria-hidden
                    h="3px"
                    bg="planned"
                    style={{ width: `${(n / most) * 100}%`, minWidth: n > 0 ? 2 : 0 }}
                  />
                </th>
                <td style={{ textAlign: 'right', verticalAlign: 'top' }}>{n}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <Text mt="3">
        {joined === 0
          ? 'Nobody has joined yet'
          : joined === 1
            ? 'One has joined in all'
            : `${joined} have joined in all`}
        {places !== null && ` of ${places} places`}
        {monthly.length > 0 &&
          `, who bring ${monthly.map(({ currency, amount }) => sayAmount(BigInt(amount), currency)).join(' and ')} a month`}
        .
      </Text>
    </Box>
  );
}

function Share({ page, title }: { readonly page: SignUpPageForStaff; readonly title: string }) {
  const { address, value } = page;
  const origin = new URL(address).origin;
  const attributes = `data-page="${value.key}" data-title="${title.replace(/[&"<>]/g, (sign) => `&#${sign.charCodeAt(0)};`)}"`;
  const script = `<script src="${origin}/embed.js" ${attributes} async></script>`;
  const plans = `<script src="${origin}/embed.js" ${attributes} data-show="plans" async></script>`;
  const frame = `<iframe src="${address}" title="${title.replace(/[&"<>]/g, (sign) => `&#${sign.charCodeAt(0)};`)}" width="100%" height="900" style="border:0"
  sandbox="allow-scripts allow-forms allow-same-origin allow-popups allow-top-navigation-by-user-activation"></iframe>`;
  const mail = `mailto:?subject=${encodeURIComponent(title)}&body=${encodeURIComponent(`${title}\n${address}`)}`;
  return (
    <Box as="section" aria-label="Share it">
      <Text as="h2" fontFamily="heading" fontSize="18px" mb="2">
        Share it
      </Text>
      <Copied label="Its address" text={address} />
      <Flex gap="3" my="3" align="center">
        <img
          src={`/api/sign-up-pages/${page.id}/qr.svg`}
          alt={`QR code of ${address}`}
          width={120}
          height={120}
        />
        <Flex direction="column" gap="2" align="flex-start">
          <TextLink
            href={`/api/sign-up-pages/${page.id}/qr.svg`}
            download={`${value.key}.svg`}
            color="kelp.fg"
          >
            The code as a drawing (SVG)
          </TextLink>
          <TextLink href={mail} color="kelp.fg">
            Write a mail with it
          </TextLink>
        </Flex>
      </Flex>
      <Text as="h3" fontWeight="500" mt="5">
        In your own site
      </Text>
      <Text color="muted" fontSize="13px" mb="2">
        Only sites that <Link to="/setup/sites">Setup, Sites</Link> names may show it.
      </Text>
      <Copied label="The page, by a script: as high as it needs" text={script} tall />
      <Copied label="What it offers side by side" text={plans} tall />
      <Copied label="The page, in a plain frame" text={frame} tall />
    </Box>
  );
}

/** A text to be taken along, copied by a press. */
function Copied({
  label,
  text,
  tall = false,
}: {
  readonly label: string;
  readonly text: string;
  readonly tall?: boolean;
}) {
  const id = useId();
  const [says, setSays] = useState('');
  const copy = () =>
    navigator.clipboard.writeText(text).then(
      () => setSays('Copied.'),
      () => setSays('It could not be copied: select it, and copy it by hand.'),
    );
  return (
    <Box mb="3">
      <label htmlFor={id}>
        <Text fontSize="13px">{label}</Text>
      </label>
      <Flex gap="2" align="flex-start">
        {tall ? (
          <Textarea id={id} size="xs" rows={3} readOnly value={text} fontFamily="mono" bg="page" />
        ) : (
          <Input id={id} size="sm" readOnly value={text} bg="page" />
        )}
        <Button size="xs" variant="outline" onClick={() => void copy()} aria-label={`Copy: ${label}`}>
          Copy
        </Button>
      </Flex>
      <Text role="status" color="collected" fontSize="13px">
        {says}
      </Text>
    </Box>
  );
}
