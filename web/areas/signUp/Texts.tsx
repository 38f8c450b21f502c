import { Button, Flex, Grid, Text } from '@chakra-ui/react';
import { PAGE_LANGUAGES, type PageLanguage } from '../../../core/words/signUp/languages.ts';
import { WORDS } from '../../../core/words/signUp/en.ts';
import type { LabelName } from '../../../core/words/signUp/words.ts';
import { LABELS } from '../../../server/signUp/messages.ts';
import { Fold } from '../../parts/Fold.tsx';
import { FormattedText } from '../../parts/FormattedText.tsx';
import { TakeFile } from '../../parts/TakeFile.tsx';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import { Part } from '../../parts/Part.tsx';
import { keyOf, NO_TEXTS, type TextsDraft } from './pageDraft.ts';
import type { PartProps } from './partProps.ts';

/** Most pictures of a page. */
const MOST_PICTURES = 6;

/** What a page says, in each of its languages; its address and pictures. */
export function Texts({ draft, faultAt, onChange }: PartProps) {
  const { language } = draft;
  const languages = (Object.keys(PAGE_LANGUAGES) as PageLanguage[]).filter((one) => draft.texts[one]);
  const others = (Object.keys(PAGE_LANGUAGES) as PageLanguage[]).filter((one) => !draft.texts[one]);
  const texts = draft.texts[language] ?? NO_TEXTS;
  const set = (to: Partial<TextsDraft>) =>
    onChange({
      texts: { ...draft.texts, [language]: { ...texts, ...to } },
      ...(to.title !== undefined && draft.keyFollows ? { key: keyOf(to.title) } : {}),
    });
  const renamed = Object.values(texts.labels).filter((text) => text.trim() !== '').length;
  return (
    <Part title="What it says">
      <Grid gap="4">
        <Flex gap="3" align="flex-end" wrap="wrap">
          <SelectField
            label="Language"
            w="180px"
            value={language}
            onChange={(event) => onChange({ language: event.target.value as PageLanguage })}
          >
            {languages.map((one) => (
              <option key={one} value={one}>
                {PAGE_LANGUAGES[one]}
              </option>
            ))}
          </SelectField>
          {others.map((one) => (
            <Button
              key={one}
              size="xs"
              variant="outline"
              onClick={() =>
                onChange({
                  language: one,
                  texts: { ...draft.texts, [one]: { ...NO_TEXTS, title: texts.title } },
                })
              }
            >
              Add {PAGE_LANGUAGES[one]}
            </Button>
          ))}
          {languages.length > 1 && (
            <Button
              size="xs"
              variant="ghost"
              onClick={() => {
                const { [language]: _, ...rest } = draft.texts;
                onChange({ texts: rest, language: languages.find((one) => one !== language) ?? 'en' });
              }}
            >
              Take out {PAGE_LANGUAGES[language]}
            </Button>
          )}
          {languages.length > 1 && (
            <Text color="muted" fontSize="13px" w="100%">
              The one chosen here is read where a browser asks for none of them.
            </Text>
          )}
        </Flex>
        <Flex gap="3" align="flex-start">
          <TextField
            label="Title"
            field={`/texts/${language}/title`}
            required
            maxLength={120}
            value={texts.title}
            error={faultAt(`/texts/${language}/title`)}
            onChange={(event) => set({ title: event.target.value })}
          />
          <TextField
            label="Address"
            field="/key"
            required
            maxLength={60}
            hint={`/join/${draft.key || '…'}`}
            value={draft.key}
            error={faultAt('/key')}
            onChange={(event) => onChange({ key: event.target.value, keyFollows: false })}
          />
        </Flex>
        <FormattedText
          key={`text ${language}`}
          label="Text"
          value={texts.text}
          error={faultAt(`/texts/${language}/text`)}
          onChange={(text) => set({ text })}
        />
        <Flex gap="4" align="center" wrap="wrap">
          {draft.pictures.map(({ id, at }, i) => (
            <Flex key={id} direction="column" align="center" gap="1">
              <img
                src={at}
                alt={`Picture ${i + 1}`}
                style={{ maxWidth: 120, maxHeight: 80, borderRadius: 4 }}
              />
              <Button
                size="2xs"
                variant="ghost"
                onClick={() => onChange({ pictures: draft.pictures.filter((one) => one.id !== id) })}
              >
                Take out
              </Button>
            </Flex>
          ))}
          {draft.pictures.length < MOST_PICTURES && (
            <TakeFile
              label="Add a picture"
              kind="picture"
              accept="image/png,image/jpeg,image/webp,image/svg+xml"
              most={1_000_000}
              onTaken={({ id, address }) =>
                onChange({ pictures: [...draft.pictures, { id, at: `/pictures/${address}` }] })
              }
            />
          )}
        </Flex>
        <Fold
          title="Names of its parts"
          holds={renamed === 0 ? 'called as usual' : `${renamed} called otherwise`}
        >
          <Grid templateColumns="1fr 1fr" gap="3">
            {(Object.keys(LABELS) as LabelName[]).map((name) => (
              <TextField
                key={name}
                label={LABELS[name]}
                maxLength={60}
                placeholder={language === 'en' ? WORDS.labels[name] : ''}
                value={texts.labels[name]}
                error={faultAt(`/texts/${language}/labels/${name}`)}
                onChange={(event) => set({ labels: { ...texts.labels, [name]: event.target.value } })}
              />
            ))}
          </Grid>
          <Text color="muted" fontSize="13px" mt="1">
            Empty: as it is usually called in {PAGE_LANGUAGES[language]}.
          </Text>
        </Fold>
      </Grid>
    </Part>
  );
}
