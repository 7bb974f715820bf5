import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";

import { LOOK, OPTION, OPTIONS, type PickProps, shownOf } from "./picks";

/** A list that opens; typed letters go to what begins with them. */
export function ShortPick<V extends string>(props: PickProps<V>) {
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
