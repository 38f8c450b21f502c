import { Button, Flex, Menu, Portal } from '@chakra-ui/react';
import { ChevronDown } from 'lucide-react';
import { useAlterSaying } from './alterSaying.ts';
import { shortNames, type AlterDraft, type Kind } from './alteration.ts';

/** Buttons in sight; the others are in one menu. */
const IN_SIGHT = 3;

interface Props {
  /** The most used first. */
  readonly kinds: readonly Kind[];
  readonly chosen: AlterDraft['kind'];
  /** What each does, in full. */
  readonly names: Readonly<Record<Kind, string>>;
  readonly onChoose: (kind: AlterDraft['kind']) => void;
}

/** What can be done with a subscription: the most used as buttons, the rest behind one. */
export function Actions({ kinds, chosen, names, onChoose }: Props) {
  const { words } = useAlterSaying();
  const short = shortNames(words);
  const inSight = kinds.length === IN_SIGHT + 1 ? kinds : kinds.slice(0, IN_SIGHT);
  const more = kinds.slice(inSight.length);
  const inMenu = more.find((kind) => kind === chosen);
  return (
    <Flex gap="2" wrap="wrap" role="group" aria-label={words.choose} data-chosen={chosen}>
      {inSight.map((kind) => (
        <Button
          key={kind}
          size="xs"
          variant={kind === chosen ? 'solid' : 'outline'}
          colorPalette={kind === chosen ? 'kelp' : undefined}
          aria-pressed={kind === chosen}
          title={names[kind]}
          onClick={() => onChoose(kind === chosen ? '' : kind)}
        >
          {short[kind]}
        </Button>
      ))}
      {more.length > 0 && (
        <Menu.Root onSelect={({ value }) => onChoose(value as Kind)} lazyMount>
          <Menu.Trigger asChild>
            <Button
              size="xs"
              variant={inMenu ? 'solid' : 'outline'}
              colorPalette={inMenu ? 'kelp' : undefined}
            >
              {inMenu ? short[inMenu] : words.more} <ChevronDown size={12} aria-hidden />
            </Button>
          </Menu.Trigger>
          <Portal>
            <Menu.Positioner>
              <Menu.Content bg="page">
                {more.map((kind) => (
                  <Menu.Item key={kind} value={kind}>
                    {names[kind]}
                  </Menu.Item>
                ))}
              </Menu.Content>
            </Menu.Positioner>
          </Portal>
        </Menu.Root>
      )}
    </Flex>
  );
}
