import { Box, Combobox, createListCollection, Portal } from '@chakra-ui/react';
import { useEffect, useLayoutEffect, useMemo, useRef } from 'react';
import type { Choosable, ComboProps } from './comboProps.ts';
import { LabelledField } from './TextField.tsx';

/** What `ComboField` becomes once it is used. */
export default function Combo({ takesOver, ...props }: ComboProps & { readonly takesOver: boolean }) {
  const { items, typed, onTyped, onTake, placeholder, nothing, ...around } = props;
  const collection = useMemo(
    () => createListCollection<Choosable>({ items: [...items], itemToString: ({ label }) => label }),
    [items],
  );
  const input = useRef<HTMLInputElement>(null);
  // It stands where somebody typed already: they go on in it.
  useLayoutEffect(() => {
    if (takesOver) input.current?.focus();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once, when it comes
  }, []);
  // A field that has the focus before its part is ready is told of it anew: otherwise it would not hear what is typed.
  useEffect(() => {
    if (takesOver) return undefined;
    const frame = requestAnimationFrame(() => {
      const at = input.current;
      if (at === null || document.activeElement !== at) return;
      at.blur();
      at.focus();
    });
    return () => cancelAnimationFrame(frame);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once, when it comes
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
        defaultOpen={takesOver}
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
