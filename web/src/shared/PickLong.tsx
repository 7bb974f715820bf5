import {
  Combobox,
  ComboboxInput,
  ComboboxOption,
  ComboboxOptions,
  Popover,
  PopoverButton,
  PopoverPanel,
} from "@headlessui/react";
import { useState } from "react";

import { focusHere } from "./keys";
import { LOOK, OPTION, OPTIONS, type PickProps, shownOf } from "./picks";

/** A long list: one types to find. */
export function PickLong(props: PickProps<string>) {
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
function Found({ label, value, options, onPick, close }: PickProps<string> & { close: () => void }) {
  const [query, setQuery] = useState("");
  const words = query.toLowerCase().split(/\s+/).filter(Boolean);
  const found = options.filter(([, text]) => words.every((w) => text.toLowerCase().includes(w)));
  const pick = (v: string | null) => {
    if (v !== null) onPick(v);
    close();
  };
  return (
    <Combobox immediate value={value} onChange={pick}>
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
