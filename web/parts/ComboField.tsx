import { Box, Combobox, createListCollection, Portal } from '@chakra-ui/react';
import { useEffect, useMemo, useRef, type ReactNode } from 'react';
import { LabelledField, type FieldProps } from './TextField.tsx';

/** One that can be taken. */
export interface Choosable {
  readonly value: string;
  readonly label: string;
  /** A second, quieter part. */
  readonly detail?: string;
  /** What speaks for it, such as a saving. */
  readonly note?: string;
}

interface Props extends FieldProps {
  /** What was found for what is typed, the best first. */
  readonly items: readonly Choosable[];
  readonly typed: string;
  readonly onTyped: (typed: string) => void;
  readonly onTake: (value: string) => void;
  readonly placeholder?: string;
  /** Said where nothing is found. */
  readonly nothing?: ReactNode;
}

/** A field in which one of many is found by typing: the first is marked, arrows move, Enter takes it. */
export function ComboField(props: Props) {
  const { items, typed, onTyped, onTake, placeholder, nothing, ...around } = props;
  const collection = useMemo(
    () => createListCollection<Choosable>({ items: [...items], itemToString: ({ label }) => label }),
    [items],
  );
  const input = useRef<HTMLInputElement>(null);
  // A field that has the focus before its part is ready is told of it anew: otherwise it would not hear what is typed.
  useEffect(() => {
    const frame = requestAnimationFrame(() => {
      const at = input.current;
      if (at === null || document.activeElement !== at) return;
      at.blur();
      at.focus();
    });
    return () => cancelAnimationFrame(frame);
  }, []);
  return (
    <LabelledField {...around}>
      <Combobox.Root
        size="sm"
        w="full"
        collection={collection}
        value={[]}
        inputValue={typed}
        inputBehavior="autohighlight"
        selectionBehavior="preserve"
        openOnClick
        loopFocus
        invalid={around.error !== undefined}
        positioning={{ sameWidth: true }}
        // What is typed stays when one leaves the field.
        allowCustomValue
        onInputValueChange={({ inputValue }) => onTyped(inputValue)}
        onValueChange={({ value: [taken] }) => taken !== undefined && onTake(taken)}
      >
        <Combobox.Control>
          <Combobox.Input
            ref={input}
            bg="page"
            aria-label={around.label}
            placeholder={placeholder}
            maxLength={200}
          />
          <Combobox.IndicatorGroup>
            <Combobox.Trigger aria-label={`Show what there is: ${around.label}`} />
          </Combobox.IndicatorGroup>
        </Combobox.Control>
        <Portal>
          <Combobox.Positioner>
            <Combobox.Content maxH="360px">
              {nothing !== undefined && <Combobox.Empty px="2">{nothing}</Combobox.Empty>}
              {items.map((item) => (
                <Combobox.Item key={item.value} item={item} _highlighted={{ bg: 'kelp.muted' }}>
                  <Combobox.ItemText flex="1">
                    {item.label}
                    {item.detail && (
                      <Box as="span" color="muted" ml="2">
                        {item.detail}
                      </Box>
                    )}
                  </Combobox.ItemText>
                  {item.note && (
                    <Box as="span" color="collected" fontSize="13px" whiteSpace="nowrap">
                      {item.note}
                    </Box>
                  )}
                </Combobox.Item>
              ))}
            </Combobox.Content>
          </Combobox.Positioner>
        </Portal>
      </Combobox.Root>
    </LabelledField>
  );
}
