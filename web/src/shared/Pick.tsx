import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";
import { lazy, Suspense } from "react";

import { LOOK, OPTION, OPTIONS, type PickProps, shownOf } from "./picks";

/** From so many options on, one types to find. */
const MANY = 10;
const Long = lazy(() => import("./PickLong"));

/** One of several: a list that opens, with search where it is long. */
export function Pick<V extends string>(props: PickProps<V>) {
  const { label, options, onPick, look = "field", className = "" } = props;
  const pick = (v: string) => {
    const found = options.find(([o]) => o === v);
    if (found) onPick(found[0]);
  };
  if (options.length < MANY || look === "key") return <Short {...props} />;
  const waiting = (
    <button type="button" aria-label={label} className={`${LOOK[look]} max-w-full ${className}`}>
      {shownOf(props)}
    </button>
  );
  return (
    <Suspense fallback={waiting}>
      <Long {...props} onPick={pick} />
    </Suspense>
  );
}

function Short<V extends string>(props: PickProps<V>) {
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
