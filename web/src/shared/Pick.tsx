import {
  Combobox,
  ComboboxInput,
  ComboboxOption,
  ComboboxOptions,
  Listbox,
  ListboxButton,
  ListboxOption,
  ListboxOptions,
  Popover,
  PopoverButton,
  PopoverPanel,
} from "@headlessui/react";
import { useState } from "react";

import { focusHere } from "./keys";

/** From so many options on, one types to find. */
const MANY = 10;

const LOOK = {
  /** A word in a sentence. */
  token:
    "cursor-pointer border-b border-dotted border-ink bg-transparent px-0 text-left font-medium leading-[1.3]",
  /** A field of a form. */
  field: "field cursor-pointer !font-sans text-left",
  /** A key that opens a list of what can be added. */
  key: "key",
} as const;

type Props<V extends string> = {
  label: string;
  value: V | "";
  options: readonly (readonly [V, string])[];
  onPick: (v: V) => void;
  /** Shown where none of the options holds. */
  placeholder?: string;
  look?: keyof typeof LOOK;
  className?: string;
};

const OPTIONS =
  "z-50 max-h-72 max-w-[min(26rem,94vw)] overflow-y-auto border border-ink bg-[#fffdf8] py-1 shadow-md focus:outline-none";
const OPTION =
  "min-h-6 cursor-pointer px-2.5 py-1 text-small data-focus:bg-accent-soft data-selected:font-semibold";

/** One of several: a list that opens, with search where it is long. */
export function Pick<V extends string>(props: Props<V>) {
  return props.options.length < MANY || props.look === "key" ? <Short {...props} /> : <Long {...props} />;
}

const shownOf = <V extends string>({ value, options, placeholder }: Props<V>) =>
  options.find(([v]) => v === value)?.[1] ?? placeholder ?? value;

function Short<V extends string>(props: Props<V>) {
  const { label, value, options, onPick, look = "field", className = "" } = props;
  const shown = shownOf(props);
  return (
    <Listbox value={value as V} onChange={onPick}>
      <ListboxButton
        aria-label={`${label}: ${shown}`}
        className={`${LOOK[look]} max-w-full ${className} inline-block truncate align-bottom`}
      >
        {shown || " "}
      </ListboxButton>
      <ListboxOptions anchor={{ to: "bottom start", gap: 3 }} className={OPTIONS}>
        {options.map(([v, text]) => (
          <ListboxOption key={v} value={v} className={OPTION}>
            {text}
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  );
}

function Long<V extends string>(props: Props<V>) {
  const { label, look = "field", className = "" } = props;
  const shown = shownOf(props);
  return (
    <Popover className="inline">
      <PopoverButton
        aria-label={`${label}: ${shown}`}
        className={`${LOOK[look]} max-w-full ${className} inline-block truncate align-bottom`}
      >
        {shown || " "}
      </PopoverButton>
      <PopoverPanel anchor={{ to: "bottom start", gap: 3 }} className={OPTIONS}>
        {({ close }) => <Found {...props} close={close} />}
      </PopoverPanel>
    </Popover>
  );
}

/** The options that have every word that is typed. */
function Found<V extends string>({ label, value, options, onPick, close }: Props<V> & { close: () => void }) {
  const [query, setQuery] = useState("");
  const words = query.toLowerCase().split(/\s+/).filter(Boolean);
  const found = options.filter(([, text]) => words.every((w) => text.toLowerCase().includes(w)));
  const pick = (v: V | null) => {
    if (v !== null) onPick(v);
    close();
  };
  return (
    <Combobox immediate value={value as V} onChange={pick}>
      <ComboboxInput
        ref={focusHere}
        aria-label={`${label}: find`}
        placeholder="find ..."
        autoComplete="off"
        spellCheck={false}
        className="field sticky top-0 mx-2 mb-1 !font-sans"
        displayValue={() => ""}
        onChange={(e) => setQuery(e.target.value)}
        onKeyDown={(e) => e.key === "Escape" && close()}
      />
      <ComboboxOptions static>
        {found.map(([v, text]) => (
          <ComboboxOption key={v} value={v} className={OPTION}>
            {text}
          </ComboboxOption>
        ))}
      </ComboboxOptions>
      {!found.length && <p className="px-2.5 py-1 text-quiet">nothing of that name</p>}
    </Combobox>
  );
}
