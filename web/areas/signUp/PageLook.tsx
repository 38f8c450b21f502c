import { Box, Flex, Text } from '@chakra-ui/react';
import { contrastOf, inkOn, legibleOn, readColour } from '../../../server/branding/messages.ts';
import { Fold } from '../../parts/Fold.tsx';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import type { PartProps } from './partProps.ts';

const COLOURS = { mainColour: 'Main colour', accentColour: 'Accent colour' } as const;

/** How a page looks: as Setup says, or in colours of its own, with what can be read on them said. */
export function PageLook({ draft, faultAt, onChange }: PartProps) {
  const { look } = draft;
  const own = look.mainColour !== '' || look.accentColour !== '';
  const main = readColour(look.mainColour);
  return (
    <Fold
      title="Look"
      holds={`${look.header === 'band' ? 'a band in the main colour' : 'the logo on white'}, ${own ? 'colours of its own' : 'the colours of Setup'}`}
    >
      <Flex gap="3" align="flex-start" wrap="wrap">
        <SelectField
          label="Header"
          w="240px"
          value={look.header}
          onChange={(event) =>
            onChange({ look: { ...look, header: event.target.value as 'band' | 'plain' } })
          }
        >
          <option value="plain">the logo on white</option>
          <option value="band">a band in the main colour</option>
        </SelectField>
        {(Object.keys(COLOURS) as (keyof typeof COLOURS)[]).map((name) => (
          <Flex key={name} gap="2" align="flex-start">
            <TextField
              label={COLOURS[name]}
              field={`/look/${name}`}
              w="180px"
              maxLength={80}
              hint="Empty: that of Setup, Look."
              value={look[name]}
              error={faultAt(`/look/${name}`)}
              onChange={(event) => onChange({ look: { ...look, [name]: event.target.value } })}
            />
            <Box
              aria-hidden
              mt="25px"
              w="32px"
              h="32px"
              borderWidth="1px"
              borderColor="lines"
              style={{ background: readColour(look[name]) ?? 'transparent' }}
            />
          </Flex>
        ))}
      </Flex>
      {main !== null && (
        <Text mt="2" color="muted" fontSize="13px">
          {contrastOf(main, inkOn(main)).toFixed(1)} : 1 for what stands on it.{' '}
          {legibleOn(main, '#ffffff') === main
            ? `${contrastOf(main, '#ffffff').toFixed(1)} : 1 for headings on white.`
            : `Too light for headings on white: they are written in ${legibleOn(main, '#ffffff')}.`}
        </Text>
      )}
    </Fold>
  );
}
