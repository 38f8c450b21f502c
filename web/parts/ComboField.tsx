import { useRef, useState, useSyncExternalStore, type ComponentType } from 'react';
import type { ComboProps } from './comboProps.ts';
import { TextField } from './TextField.tsx';

type Part = ComponentType<ComboProps & { readonly takesOver: boolean }>;
/** What the fields become once it was loaded for one of them, and who waits for that. */
let loaded: Part | null = null;
const waiting = new Set<() => void>();

function want(): void {
  void import('./Combo.tsx').then((part) => {
    loaded = part.default;
    for (const tell of waiting) tell();
  });
}

function whenLoaded(tell: () => void): () => void {
  waiting.add(tell);
  return () => waiting.delete(tell);
}

/**
 * A field in which one of many is found by typing: the first is marked, arrows move, Enter takes it. Its list and its keys
 * are loaded when one is first typed or clicked in, since most of a page needs none; what is typed before they are there is
 * kept, and the focus stays.
 */
export function ComboField(props: ComboProps) {
  const Whole = useSyncExternalStore(whenLoaded, () => loaded);
  const hasFocus = useRef(false);
  const { items: _, typed, onTyped, onTake: __, nothing: ___, placeholder, ...around } = props;
  if (Whole) return <TakesOver {...props} part={Whole} from={hasFocus} />;
  return (
    <TextField
      {...around}
      placeholder={placeholder}
      role="combobox"
      aria-expanded={false}
      aria-autocomplete="list"
      autoComplete="off"
      maxLength={200}
      value={typed}
      onFocus={() => (hasFocus.current = true)}
      onBlur={() => (hasFocus.current = false)}
      onClick={want}
      onKeyDown={(event) => {
        if (event.key === 'ArrowDown') want();
        // What is typed is looked for first: it is not sent with nobody chosen.
        if (event.key === 'Enter' && typed !== '') event.preventDefault();
      }}
      onChange={({ target }) => {
        want();
        onTyped(target.value);
      }}
    />
  );
}

/** Decides once, when the list is there, whether it takes over from a field that somebody is in. */
function TakesOver({
  part: Whole,
  from,
  ...props
}: ComboProps & { readonly part: Part; readonly from: { readonly current: boolean } }) {
  const [takesOver] = useState(() => from.current);
  return <Whole {...props} takesOver={takesOver} />;
}
