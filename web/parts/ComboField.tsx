import { lazy, Suspense, useRef, useState } from 'react';
import type { ComboProps } from './comboProps.ts';
import { TextField } from './TextField.tsx';

/** The list and its keys are loaded when a field of this kind is first typed or clicked in: most of a page needs none. */
let isLoaded = false;
const Combo = lazy(async () => {
  const part = await import('./Combo.tsx');
  isLoaded = true;
  return part;
});

/**
 * A field in which one of many is found by typing: the first is marked, arrows move, Enter takes it. What is typed before
 * its list is there is kept, and the focus stays.
 */
export function ComboField(props: ComboProps) {
  const [isWanted, setWanted] = useState(isLoaded);
  const hasFocus = useRef(false);
  const { items: _, typed, onTyped, onTake: __, nothing: ___, placeholder, ...around } = props;
  const plain = (
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
      onClick={() => setWanted(true)}
      onKeyDown={(event) => {
        if (event.key === 'ArrowDown') setWanted(true);
        // What is typed is looked for first: it is not sent with nobody chosen.
        if (event.key === 'Enter' && typed !== '') event.preventDefault();
      }}
      onChange={({ target }) => {
        setWanted(true);
        onTyped(target.value);
      }}
    />
  );
  if (!isWanted) return plain;
  return (
    <Suspense fallback={plain}>
      <TakesOver {...props} from={hasFocus} />
    </Suspense>
  );
}

/** Decides once, when the list is there, whether it takes over from a field that somebody is in. */
function TakesOver({ from, ...props }: ComboProps & { readonly from: { readonly current: boolean } }) {
  const [takesOver] = useState(() => from.current);
  return <Combo {...props} takesOver={takesOver} />;
}
