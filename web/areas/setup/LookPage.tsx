import { Box, Button, Flex, Input, Text } from '@chakra-ui/react';
import { useEffect, useId, useState } from 'react';
import type { FieldValues, UseFormReturn } from 'react-hook-form';
import { contrastOf, inkOn, legibleOn, readColour } from '../../../server/branding/messages.ts';
import type { SectionValue } from '../../../server/settings/messages.ts';
import { Problem, upload, withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { TextField } from '../../parts/TextField.tsx';
import { Previews } from './Previews.tsx';
import { faultAt, SectionForm } from './SectionForm.tsx';
import { shareThatVanishes } from './vanishing.ts';

type Look = SectionValue<'branding'>;
interface Pictures {
  readonly logo: string | null;
  readonly icon: string | null;
}

/** Logo, icon and colours, with what carries them side by side. */
export function LookPage() {
  const { data } = useAnswer<Pictures>('/api/branding');
  const [fresh, setFresh] = useState<Partial<Pictures>>({});
  const pictures = { logo: null, icon: null, ...data, ...fresh };
  return (
    <SectionForm
      name="branding"
      title="Look"
      margin={(value) => <Meaning value={value} logo={value.logo === null ? null : pictures.logo} />}
    >
      {(form, value) => (
        <>
          {(['logo', 'icon'] as const).map((kind) => (
            <Picture
              key={kind}
              kind={kind}
              form={form}
              path={value[kind] === null ? null : pictures[kind]}
              onTaken={(path) => setFresh((now) => ({ ...now, [kind]: path }))}
            />
          ))}
          <Flex gap="4">
            <Colour form={form} name="mainColour" label="Main colour" value={value.mainColour} />
            <Colour form={form} name="accentColour" label="Accent colour" value={value.accentColour} />
          </Flex>
          <Previews
            mainColour={readColour(value.mainColour) ?? '#0e6655'}
            accentColour={readColour(value.accentColour) ?? '#b97a06'}
            logo={value.logo === null ? null : pictures.logo}
          />
        </>
      )}
    </SectionForm>
  );
}

function Colour(props: {
  form: UseFormReturn<FieldValues>;
  name: 'mainColour' | 'accentColour';
  label: string;
  value: string;
}) {
  const { form, name, label, value } = props;
  const read = readColour(value ?? '');
  return (
    <Flex gap="2" align="flex-start" flex="1">
      <TextField
        label={label}
        hint={
          read !== null && read !== value
            ? `Read as ${read}.`
            : 'In any notation: #0e6655, rgb(14, 102, 85), teal.'
        }
        maxLength={80}
        {...form.register(name)}
        error={faultAt(form, name)}
      />
      <Box
        aria-hidden
        mt="25px"
        w="32px"
        h="32px"
        flexShrink={0}
        borderWidth="1px"
        borderColor="lines"
        style={{ background: read ?? 'transparent' }}
      />
    </Flex>
  );
}

function Picture(props: {
  kind: 'logo' | 'icon';
  form: UseFormReturn<FieldValues>;
  path: string | null;
  onTaken: (path: string) => void;
}) {
  const { kind, form, path, onTaken } = props;
  const [says, setSays] = useState('');
  const [busy, setBusy] = useState(false);
  const id = useId();
  const take = async (file: File | undefined) => {
    if (!file) return;
    setSays('');
    if (file.size > 1_000_000) return setSays('A picture has at most 1 MB.');
    setBusy(true);
    try {
      const query = withQuery(`/api/uploads/${kind}`, { name: file.name });
      const taken = await upload<{ id: string; address: string }>(query, file);
      form.setValue(kind, taken.id, { shouldDirty: true });
      onTaken(`/pictures/${taken.address}`);
    } catch (error) {
      setSays(error instanceof Problem ? error.message : 'The picture was not taken.');
    } finally {
      setBusy(false);
    }
  };
  return (
    <Box>
      <label htmlFor={id}>
        <Text fontWeight="500">{kind === 'logo' ? 'Logo' : 'Icon'}</Text>
      </label>
      <Flex gap="4" align="center" mt="1">
        <Flex
          bg="white"
          borderWidth="1px"
          borderColor="lines"
          w="220px"
          h="64px"
          align="center"
          justify="center"
        >
          {path === null ? (
            <Text color="gray.600" fontSize="13px">
              none
            </Text>
          ) : (
            <img src={path} alt={`The ${kind}`} style={{ maxWidth: 200, maxHeight: 56 }} />
          )}
        </Flex>
        <Box>
          <Input
            id={id}
            type="file"
            size="sm"
            pt="1"
            disabled={busy}
            accept="image/png,image/jpeg,image/webp,image/svg+xml"
            onChange={(event) => void take(event.target.files?.[0])}
          />
          <Text color="muted" fontSize="13px" mt="1">
            PNG, JPEG, WebP or SVG, at most 1 MB. {kind === 'icon' ? 'Shown small, best square.' : ''}
          </Text>
        </Box>
        {path !== null && (
          <Button size="xs" variant="ghost" onClick={() => form.setValue(kind, null, { shouldDirty: true })}>
            Take out
          </Button>
        )}
      </Flex>
      <Text role="alert" color="declined">
        {says || faultAt(form, kind)}
      </Text>
    </Box>
  );
}

const GROUNDS = [
  ['#ffffff', 'the page of customers'],
  ['#f3f6f4', 'letters'],
] as const;

function Meaning({ value, logo }: { readonly value: Look; readonly logo: string | null }) {
  const main = readColour(value.mainColour ?? '');
  const vanishes = useVanishing(logo);
  return (
    <>
      <MarginHeading>Contrast</MarginHeading>
      {main === null ? (
        <Text>The main colour cannot be read yet.</Text>
      ) : (
        <>
          <Check
            good={contrastOf(main, '#ffffff') >= 4.5}
            says={`As text on white: ${contrastOf(main, '#ffffff').toFixed(1)} : 1`}
            else={`Below 4.5 : 1. Headings and links take ${legibleOn(main, '#ffffff')} instead.`}
          />
          <Check
            good
            says={`Buttons: ${inkOn(main) === '#ffffff' ? 'white' : 'dark'} words, ${contrastOf(main, inkOn(main)).toFixed(1)} : 1`}
          />
        </>
      )}
      {logo !== null && (
        <>
          <MarginHeading>The logo on its grounds</MarginHeading>
          {GROUNDS.map(([ground, where]) => (
            <Box key={ground} mb="2">
              <Flex
                h="56px"
                align="center"
                justify="center"
                borderWidth="1px"
                borderColor="lines"
                style={{ background: ground }}
              >
                <img src={logo} alt={`The logo on ${where}`} style={{ maxWidth: 240, maxHeight: 44 }} />
              </Flex>
              <Check
                good={(vanishes[ground] ?? 0) < 0.5}
                says={`On ${where}`}
                else={`${Math.round((vanishes[ground] ?? 0) * 100)}% of it vanishes on this ground. Take a darker one.`}
              />
            </Box>
          ))}
        </>
      )}
    </>
  );
}

function Check(props: { readonly good: boolean; readonly says: string; readonly else?: string }) {
  return (
    <Text mb="1" color={props.good ? undefined : 'trial'}>
      {props.says}
      {!props.good && `. ${props.else ?? ''}`}
    </Text>
  );
}

/** How much of a picture cannot be told from each ground, by ground; looked at whenever the picture changes. */
function useVanishing(path: string | null): Readonly<Record<string, number>> {
  const [found, setFound] = useState<{ path: string; shares: Record<string, number> } | null>(null);
  useEffect(() => {
    if (path === null) return;
    let current = true;
    void Promise.all(
      GROUNDS.map(async ([ground]) => [ground, await shareThatVanishes(path, ground)] as const),
    ).then((shares) => current && setFound({ path, shares: Object.fromEntries(shares) }));
    return () => {
      current = false;
    };
  }, [path]);
  return found?.path === path ? found.shares : {};
}
